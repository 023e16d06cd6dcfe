// Fourteen filter sections one after another; core/processors/equalizer.ts says which band each belongs to.
import { finish, section, SECTION } from './filter';
import { signal } from './lanes';

const SECTIONS = 14;
const S_SECTIONS: usize = 16;

export function equalizer(): void {
  for (let s = 0; s < SECTIONS; s++) section(signal, <usize>s * SECTION, S_SECTIONS + (<usize>s << 3));
  finish(signal);
}

export function equalizerBytes(): i32 {
  return 16 + SECTIONS * 8;
}
