import { ascii } from '../surface/shortNames';
import { remembered } from '../surface/structure';

/** Printable characters that no part of an address may hold (OSC 1.0, "OSC Address Spaces and OSC Addresses"). */
const RESERVED = /[\s#*,/?[\]{}]+/g;

/** A name as a part of an address: `Lead voice` gives `Lead_voice`. One that is a number would be taken for one: it gets a `_` before it. */
export function oscName(name: string): string {
  const plain = ascii(name.trim())
    .replace(RESERVED, '_')
    .replace(/[^\x21-\x7e]+/g, '_');
  return plain === '' || /^\d+$/.test(plain) ? `_${plain}` : plain;
}

/** Names of things beside each other, each a name of its own: of two that are called the same the second ends in `_2`. */
export const oscNames = remembered(
  (names: readonly string[]) => names,
  (names: readonly string[]): readonly string[] => {
    const taken = new Set<string>();
    return names.map((name) => {
      const own = oscName(name);
      let free = own;
      for (let n = 2; taken.has(free); n++) free = `${own}_${n}`;
      taken.add(free);
      return free;
    });
  },
  16,
);
