import { processorOf } from '../processors/registry';
import { latencies } from '../routing/latency';
import { reach } from '../session/graph';
import { listed, named, type Rule } from './finding';

/** What a player hears of himself later than this disturbs; common practice, no published source. */
const MOST_SECONDS = 0.02;

/** All ways wait for the latest, so that what is late anywhere is late for whoever plays along. */
export const lateLive: Rule = {
  id: 'late-live',
  title: 'A path that is late',
  *find({ session, strips }) {
    const late = latencies(session);
    const seconds = (frames: number) => frames / session.sampleRate;
    for (const output of session.strips) {
      if (output.kind !== 'output' || seconds(late.get(output.id)!.post) <= MOST_SECONDS) continue;
      const feeding = new Set([
        output.id,
        ...reach(session, [output.id], 'upstream', (e) => e.kind === 'key' || e.on),
      ]);
      const live = session.strips.filter((s) => s.preamp !== null && feeding.has(s.id));
      // The latest inserts of what leads there, the worst first.
      const worst = session.strips
        .filter((s) => feeding.has(s.id))
        .flatMap((s) =>
          s.inserts.map((insert) => ({
            strip: s,
            insert,
            frames: processorOf(insert.type).latency(insert.params, session.sampleRate),
          })),
        )
        .filter((x) => x.frames > 0)
        .sort((a, b) => b.frames - a.frames);
      const first = worst[0];
      if (!first) continue;
      const ms = (seconds(late.get(output.id)!.post) * 1000).toFixed(1);
      yield {
        key: output.id,
        severity: live.length ? 'risk' : 'note',
        sure: live.length ? 'likely' : 'possible',
        what: `${live.length ? listed(live.map(named)) : 'Everything'} comes ${ms} ms late at ${named(output)}, most of it by the ${processorOf(first.insert.type).name.toLowerCase()} on ${named(first.strip)}.`,
        why: live.length
          ? 'Whoever plays hears himself that much later: more than 20 ms disturb.'
          : 'Stems wait for each other and stay in time; whoever plays along hears himself that much later.',
        where: [first.strip.id, output.id, ...live.map((s) => strips.get(s.id)!.id)],
        repair: {
          label: `Remove the ${processorOf(first.insert.type).name.toLowerCase()}`,
          commands: [{ type: 'insert.remove', strip: first.strip.id, id: first.insert.id }],
        },
      };
    }
  },
};
