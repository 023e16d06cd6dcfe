import type { Insert, Strip } from '../../session/types';
import type { Desk } from '../desk/desk';

/**
 * The insert of a kind that comes up first where a strip has several: an equalizer or compressor as the desk is set, of another kind
 * the first one. Behind the fader there may be none: then it is the first after all.
 */
export function firstOf(desk: Desk, strip: Strip, type: string): Insert | undefined {
  const all = strip.inserts.filter((i) => i.type === type);
  const which = type === 'equalizer' ? desk.equalizer : type === 'compressor' ? desk.compressor : 'first';
  if (which === 'last') return all.at(-1);
  return (which === 'afterFader' ? all.find((i) => i.place === 'post') : undefined) ?? all[0];
}
