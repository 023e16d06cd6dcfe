import type { Command } from '../../edits/commands';
import { stripMap } from '../../session/lookup';
import type { Session } from '../../session/types';
import { acrossOf } from '../encoders/across/registry';
import type { KeyControl, Steers } from '../profile/profile';

/** Fields of a strip that a hand can move, by what moves them across the strips. */
const FIELDS: Readonly<Record<string, string>> = {
  faderDb: 'level',
  pan: 'pan',
  trimDb: 'trim',
  width: 'width',
  preamp: 'preampGain',
};
const KEYS: Readonly<Record<string, string>> = { mute: 'mute', solo: 'solo', automation: 'mode' };

const ofStrip = (what: string, strip: string, nth: number | null = null): Steers => ({
  type: 'across',
  what,
  nth,
  of: 'strip',
  strip,
});

/**
 * What was touched on the page, told from the edit that came of it: a level, a pan or a send is that of its strip; a parameter is that of
 * whatever strip is picked.
 * @param session as it was before
 * @returns null where the edit is of nothing that a control can steer
 */
export function touchedBy(
  session: Session,
  commands: readonly Command[],
): { readonly steers: Steers } | { readonly key: Pick<KeyControl, 'role' | 'action'> } | null {
  for (const c of commands)
    switch (c.type) {
      case 'strip.set':
      case 'vca.set':
        for (const name of Object.keys(c.patch)) {
          if (FIELDS[name]) return { steers: ofStrip(FIELDS[name], c.id) };
          if (KEYS[name]) return { key: { role: KEYS[name], action: null } };
        }
        break;
      case 'send.set': {
        if (!('levelDb' in c.patch)) break;
        const send = stripMap(session)
          .get(c.strip)
          ?.sends.find((x) => x.id === c.id);
        const nth = acrossOf('send').choices!(session).findIndex((x) => x.id === send?.to);
        if (nth >= 0) return { steers: ofStrip('send', c.strip, nth) };
        break;
      }
      case 'insert.set': {
        const insert = stripMap(session)
          .get(c.strip)
          ?.inserts.find((x) => x.id === c.id);
        const changed = Object.entries(c.patch.params ?? {}).find(([id, v]) => insert?.params[id] !== v);
        if (insert && changed)
          return {
            steers: {
              type: 'parameter',
              processor: insert.type,
              parameter: changed[0],
              of: 'picked',
              strip: null,
            },
          };
        break;
      }
      default:
        break;
    }
  return null;
}
