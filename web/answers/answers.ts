import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { holdersOf } from '@core/groups/vca';
import type { Trial } from '@core/routing/ripple';
import { commandsOf, ripple } from '@core/routing/ripple';
import { trace } from '@core/routing/trace';
import { vcaEffect } from '@core/routing/vcaEffect';
import { whySilent } from '@core/routing/whySilent';
import { apply } from '@core/edits/apply';
import { monitoredOutput, stripMap } from '@core/session/lookup';
import type { Strip } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { useInspector } from '@/commands/inspector';
import { useMarks, type Lit } from '@/session/marks';
import { say } from './texts';

/** Peaks of a stem's overview in a second. */
const PEAKS_PER_SECOND = 100;
const decoded = new Map<string, Uint8Array>();
function peaksOf(base64: string): Uint8Array {
  let peaks = decoded.get(base64);
  if (!peaks) {
    peaks = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
    decoded.set(base64, peaks);
  }
  return peaks;
}

/** The answers about the picked strip: where its signal goes, why it is silent, what else changes when it moves. */
export const useAnswers = defineStore('answers', () => {
  const session = useSession();
  const pick = usePick();
  const transport = useTransport();
  const inspector = useInspector();
  watch(
    () => pick.insert,
    (insert) => {
      if (insert) inspector.tab = 'strip';
    },
  );

  // — Trace —
  /** The output that is traced to; null is the one that is heard. */
  const goal = ref<string | null>(null);
  /** The path that is looked at by itself. */
  const chosen = ref<number | null>(null);
  const outputs = computed(() => session.standing?.strips.filter((s) => s.kind === 'output') ?? []);
  const to = computed(() => {
    const doc = session.standing;
    if (!doc) return null;
    return (outputs.value.find((s) => s.id === goal.value) ?? monitoredOutput(doc))?.id ?? null;
  });
  const from = computed(() => (pick.shown && session.strip(pick.shown) ? pick.shown : null));
  const tracing = computed(() => inspector.tab === 'trace' && from.value !== null && to.value !== null);
  const traced = computed(() =>
    tracing.value && session.standing ? trace(session.standing, from.value!, to.value!) : null,
  );
  watch([from, to], () => (chosen.value = null));
  const paths = computed(() => {
    const all = traced.value?.paths ?? [];
    return chosen.value === null ? all : all.slice(chosen.value, chosen.value + 1);
  });
  /** Rows of each strip that the traced signal passes; a space between keys. */
  const lit = computed<Lit>(() => {
    const cells = new Map<string, Set<string>>();
    const doc = session.standing;
    if (!doc || !traced.value) return new Map();
    const strips = stripMap(doc);
    for (const p of paths.value)
      p.strips.forEach((id, i) => {
        let rows = cells.get(id);
        if (!rows) cells.set(id, (rows = new Set(['cap'])));
        const edge = p.edges[i];
        if (edge === undefined) return;
        const send = strips.get(id)!.sends.find((x) => x.id === edge);
        rows.add(send ? `send:${send.to}` : 'out');
        if (!send || send.tap === 'post') rows.add('level');
      });
    return new Map([...cells].map(([id, rows]) => [id, [...rows].join(' ')]));
  });
  useMarks().mark('lit', () => lit.value);
  /** Whether a source's stem sounds within a second of the playhead; undefined where that is not known. */
  function soundsHere(s: Strip): boolean | undefined {
    const info = s.stem === null ? undefined : session.stems[s.stem];
    if (s.kind !== 'source' || !info?.overview) return undefined;
    const peaks = peaksOf(info.overview);
    const at = Math.round(rest.value * PEAKS_PER_SECOND);
    const near = peaks.subarray(Math.max(0, at - PEAKS_PER_SECOND), at + PEAKS_PER_SECOND);
    return near.some((p) => p > 0);
  }
  /** The playhead, to half a second: so often the answer may change. */
  const rest = computed(() => Math.round(transport.position * 2) / 2);
  const silence = computed(() =>
    tracing.value && session.standing ? whySilent(session.standing, from.value!, { soundsHere }) : null,
  );

  // — Ripple —
  const by = ref(-3);
  const kind = ref('fader');
  const vca = ref<string | null>(null);
  watch(from, () => {
    kind.value = 'fader';
    vca.value = null;
  });
  const holders = computed(() =>
    session.standing && from.value ? holdersOf(session.standing, from.value) : [],
  );
  /** What can be moved: a key, and how it is named. */
  const moves = computed(() => {
    const doc = session.standing;
    if (!doc) return [];
    const list: { key: string; name: string }[] = [];
    const s = from.value ? session.strip(from.value) : undefined;
    if (s) {
      list.push({ key: 'fader', name: say('itsLevel') }, { key: 'trim', name: say('itsTrim') });
      for (const x of s.sends)
        list.push({
          key: `send:${x.id}`,
          name: say('itsSendToName', { name: stripMap(doc).get(x.to)?.name || x.to }),
        });
      list.push({ key: 'mute', name: s.mute ? say('itsMuteOff') : say('itsMuteOn') });
    }
    for (const v of doc.vcas) {
      list.push({ key: `vca:${v.id}`, name: say('vcaName', { name: v.name || v.id }) });
      list.push({
        key: `vcaMute:${v.id}`,
        name: say('vcaNameMuteMute', { name: v.name || v.id, mute: v.mute ? say('off') : say('on') }),
      });
    }
    return list;
  });
  const move = computed<Trial | null>(() => {
    const doc = session.standing;
    if (!doc) return null;
    const key = vca.value ? `vca:${vca.value}` : kind.value;
    if (key.startsWith('vca:')) {
      const id = key.slice(4);
      return doc.vcas.some((v) => v.id === id) ? { kind: 'vca', vca: id, by: by.value } : null;
    }
    if (key.startsWith('vcaMute:')) {
      const id = key.slice(8);
      return doc.vcas.some((v) => v.id === id) ? { kind: 'vcaMute', vca: id } : null;
    }
    const strip = from.value;
    if (!strip || !session.strip(strip)) return null;
    if (key === 'mute') return { kind: 'mute', strip };
    if (key.startsWith('send:')) {
      const send = key.slice(5);
      return session.strip(strip)!.sends.some((x) => x.id === send)
        ? { kind: 'send', strip, send, by: by.value }
        : null;
    }
    return { kind: key === 'trim' ? 'trim' : 'fader', strip, by: by.value };
  });
  const commands = computed(() =>
    session.standing && move.value ? commandsOf(session.standing, move.value) : null,
  );
  const after = computed(() =>
    session.standing && commands.value ? apply(session.standing, commands.value).session : null,
  );
  const rippled = computed(() =>
    inspector.tab === 'ripple' && session.standing && after.value
      ? ripple(session.standing, after.value)
      : null,
  );
  const effect = computed(() =>
    inspector.tab === 'ripple' && session.standing && move.value?.kind === 'vca'
      ? vcaEffect(session.standing, move.value.vca)
      : null,
  );
  function askVca(id: string) {
    vca.value = id;
    inspector.tab = 'ripple';
  }

  return {
    goal,
    chosen,
    outputs,
    to,
    from,
    traced,
    lit,
    silence,
    by,
    kind,
    vca,
    holders,
    moves,
    move,
    commands,
    after,
    rippled,
    effect,
    askVca,
  };
});
