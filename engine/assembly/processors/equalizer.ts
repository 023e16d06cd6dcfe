// Fourteen filter sections one after another; core/processors/equalizer.ts says which band each belongs to.
import * as its from '../../../build/engine/parameters/equalizer';
import { cascade, finish, restsOne, section, SECTION, settledOne } from '../filter';
import { signal, storeOne } from '../lanes';

const SECTIONS: usize = 14;
const S_SECTIONS: usize = 16;

export function process(): void {
  for (let s: usize = 0; s < SECTIONS; s++) section(signal, its.sections + s * SECTION, S_SECTIONS + (s << 3));
  finish(signal);
}

// Parameters and states of the sections that do something, in bytes.
const list: usize = memory.data(16 * 8, 16);
let listed = 0;

/** Whether it can be computed as a row: while a band moves it cannot. */
export function fitsRow(): bool {
  listed = 0;
  for (let s: usize = 0; s < SECTIONS; s++) {
    const params = its.sections + s * SECTION;
    if (restsOne(params)) continue;
    if (!settledOne(params)) return false;
    const at = list + (<usize>listed << 3);
    store<usize>(at, params);
    store<usize>(at, S_SECTIONS + (s << 3), 4);
    listed++;
  }
  return true;
}

/** The same for one channel alone, after `fitsRow`. */
export function row(): void {
  let k = 0;
  for (let s: usize = 0; s < SECTIONS; s++) {
    if (k < listed && load<usize>(list + (<usize>k << 3)) == its.sections + s * SECTION) {
      k++;
      continue;
    }
    storeOne(S_SECTIONS + (s << 3), 0);
    storeOne(S_SECTIONS + (s << 3) + 4, 0);
  }
  for (let k = 0; k < listed; k += 8) cascade(signal, list + (<usize>k << 3), listed - k);
}

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 16 + i32(SECTIONS) * 8;
}
