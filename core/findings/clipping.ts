import { reach } from '../session/graph';
import { signalOrder } from '../session/order';
import { clampLevel } from '../levels/faderLaw';
import { named, type Rule } from './finding';

/** Room that the repair leaves below full scale. */
const MARGIN_DB = 0.3;

export const clipping: Rule = {
  id: 'clipping',
  title: 'Clipping at an output',
  *find({ session, strips, peaks }) {
    if (!peaks) return;
    for (const output of session.strips) {
      const peak = peaks.get(output.id) ?? 0;
      if (output.kind !== 'output' || !(peak > 1)) continue;
      const over = 20 * Math.log10(peak);
      const feeding = new Set([
        output.id,
        ...reach(session, [output.id], 'upstream', (e) => e.kind !== 'key' && e.on),
      ]);
      const first = signalOrder(session).find((id) => feeding.has(id) && (peaks.get(id) ?? 0) > 1)!;
      const level =
        output.faderDb === null ? null : Math.floor((output.faderDb - over - MARGIN_DB) * 10) / 10;
      yield {
        key: output.id,
        severity: 'fault',
        sure: 'measured',
        what: `${named(output)} peaks ${over.toFixed(1)} dB above full scale${first === output.id ? '' : `; ${named(strips.get(first)!)} is the first to exceed it`}.`,
        why: 'Inside the session nothing clips; a file of whole numbers, and the converter that plays it, cut the peaks off.',
        where: [output.id, ...(first === output.id ? [] : [first])],
        repair: {
          label: `Lower ${named(output)} by ${(over + MARGIN_DB).toFixed(1)} dB`,
          commands: [{ type: 'strip.set', id: output.id, patch: { faderDb: clampLevel(level) } }],
        },
      };
    }
  },
};
