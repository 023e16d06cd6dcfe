import { defineStore } from 'pinia';
import { computed, effect, ref, shallowRef, watch } from 'vue';
import { useDebounceFn } from '@vueuse/core';
import { lateText } from './lateText';
import type { LateSource } from './feeder';
import { Player, type Gaps } from './player';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import type { TransportAsk } from '@/session/sync/playing';
import { BUFFERS, useSettings } from '@/session/settings';
import { say } from './texts';

/** Playing: where it stands, what is looped. Times are in seconds of the session. */
export const useTransport = defineStore('transport', () => {
  const session = useSession();
  const notices = useNotices();
  const settings = useSettings();
  const player = shallowRef<Player | null>(null);
  const rolling = ref(false);
  const waiting = ref(false);
  const position = ref(0);
  const loop = shallowRef<{ readonly start: number; readonly end: number } | null>(null);
  const looping = ref(false);
  const load = ref(0);
  const dropouts = ref(0);
  const worst = ref(0);
  const overruns = ref(0);
  const gaps = shallowRef<Gaps | null>(null);
  /** Dropouts, of whatever kind: gaps, or blocks that took too long where the browser tells no gaps, and stems that came late. */
  const late = computed(() => (gaps.value ? gaps.value.times : overruns.value) + dropouts.value);
  /** Gaps that had been heard when the buffer was chosen. */
  const gapsAtChoice = ref(0);
  /** The next longer buffer, in milliseconds, where gaps were heard with this one; null where there is none. */
  const longerBuffer = computed(() =>
    (gaps.value?.times ?? 0) > gapsAtChoice.value ? (BUFFERS.find((b) => b > bufferMs()) ?? null) : null,
  );
  /** Sources that were not there in time since it was last begun, and why: by strip. */
  const lateSources = shallowRef<ReadonlyMap<string, LateSource>>(new Map());
  function cameLate(sources: readonly LateSource[]) {
    const first = lateSources.value.size === 0;
    lateSources.value = new Map([...lateSources.value, ...sources.map((s) => [s.strip, s] as const)]);
    if (first) notices.refused(lateText(session.document, lateSources.value));
  }
  let frame = 0;
  let wished = false;

  const rate = computed(() => session.document?.sampleRate ?? 48000);
  /** Length of the longest stem, or where the last section ends. */
  const length = computed(() => {
    const document = session.document;
    if (!document) return 0;
    const stems = document.strips.map((s) =>
      s.stem && session.stems[s.stem] ? session.stems[s.stem]!.frames / document.sampleRate : 0,
    );
    return Math.max(0, ...stems, ...document.sections.map((s) => s.end));
  });

  // What is heard is asked for when the player tells it on, not at each of many moves.
  const toldOf = () => void [session.heard, session.stems];
  effect(toldOf, { scheduler: () => player.value?.update(session.stems) });

  /** Milliseconds; what is kept in a browser may be anything. */
  const bufferMs = () => BUFFERS.find((b) => b === settings.buffer) ?? 20;
  /** Changes of the buffer go one after the other, as when a key steps through them. */
  let changing = Promise.resolve();
  async function rebuffer() {
    const p = player.value;
    if (!p) return;
    const rolled = wished;
    stop();
    try {
      await p.rebuffer(bufferMs());
      if (player.value !== p) await p.close();
      else if (rolled) await roll();
    } catch (error) {
      notices.refused(error);
    }
  }
  watch(
    () => settings.meterScale,
    (scale) => player.value?.live.setScale(scale),
  );
  /** Whether the monitored output is heard in mono. */
  const mono = ref(false);
  watch(mono, (on) => player.value?.setMono(on));
  watch(
    () => settings.buffer,
    () => {
      gapsAtChoice.value = gaps.value?.times ?? 0;
      changing = changing.then(rebuffer);
    },
  );

  /** Whether another window plays, and this one asks it. */
  const remote = ref(false);
  /** Milliseconds between two words to the others while it rolls. */
  const TELL_MS = 250;
  let toldAt = 0;
  /** Tells the other windows where this one stands, if it can play: a browser lets nothing sound before a hand has been there. */
  function tell() {
    if (remote.value || !player.value) return;
    if (!player.value.started && globalThis.navigator?.userActivation?.hasBeenActive === false) return;
    toldAt = performance.now();
    session.playing.tell({
      rolling: rolling.value,
      position: now(),
      looping: looping.value,
      loop: loop.value,
    });
  }
  watch([rolling, looping, loop], tell);
  /** Asks the window that plays. */
  async function ask(what: TransportAsk, at?: number) {
    if (await session.playing.ask(what, at)) return;
    notices.refused(say('noWindowPlays'));
  }
  /** Follows the window that plays: where it stands is told now and then, and goes on by the clock meanwhile. */
  function follow() {
    frame = requestAnimationFrame(follow);
    const other = session.playing.other;
    rolling.value = other?.rolling ?? false;
    looping.value = other?.looping ?? false;
    if (loop.value !== (other?.loop ?? null)) loop.value = other?.loop ?? null;
    if (!other) return;
    let at = other.position + (other.rolling ? (performance.now() - other.at) / 1000 : 0);
    if (other.looping && other.loop && at >= other.loop.end) {
      const span = other.loop.end - other.loop.start;
      at = other.loop.start + ((at - other.loop.start) % span);
    }
    position.value = Math.min(at, length.value || at);
    showAt(position.value);
  }
  /** Begins in a window that plays nothing itself. */
  function attachRemote() {
    remote.value = true;
    position.value = 0;
    frame = requestAnimationFrame(follow);
  }

  function attach() {
    remote.value = false;
    session.playing.serve({
      answer(what, at) {
        if (what === 'play') void play();
        else if (what === 'stop') stop();
        else if (what === 'loop') toggleLoop();
        else if (at !== undefined) locate(at);
      },
      tell,
    });
    player.value = new Player(bufferMs(), () => session.heard, cameLate);
    lateSources.value = new Map();
    player.value.live.setScale(settings.meterScale);
    mono.value = false;
    gapsAtChoice.value = 0;
    player.value.update(session.stems);
    position.value = 0;
    frame = requestAnimationFrame(look);
  }
  async function detach() {
    cancelAnimationFrame(frame);
    session.playing.serve(null);
    wished = rolling.value = waiting.value = false;
    loop.value = null;
    looping.value = false;
    const old = player.value;
    player.value = null;
    await old?.close();
  }

  function look() {
    frame = requestAnimationFrame(look);
    const p = player.value;
    if (!p?.started) return;
    rolling.value = p.rolling;
    waiting.value = wished && !(p.rolling && p.cued);
    if (p.rolling && p.cued) {
      position.value = p.position / rate.value;
      showAt(position.value);
      if (performance.now() - toldAt >= TELL_MS) tell();
      if (wished && length.value > 0 && position.value >= length.value && !(looping.value && loop.value)) {
        stop();
        position.value = length.value;
      }
    }
    if (load.value !== p.load) load.value = p.load;
    if (worst.value !== p.worst) worst.value = p.worst;
    if (overruns.value !== p.overruns) overruns.value = p.overruns;
    if (dropouts.value !== p.dropouts) dropouts.value = p.dropouts;
    const told = p.gaps;
    if (gaps.value?.times !== told?.times || gaps.value?.seconds !== told?.seconds) gaps.value = told;
  }

  /** Seconds between two pictures of automated controls, and between two answers of what takes longer. */
  const PICTURE = 0.03;
  const ANSWER = 1;
  function showAt(seconds: number) {
    if (!rolling.value || Math.abs(seconds - session.playhead) >= PICTURE) session.playhead = seconds;
    if (!rolling.value || Math.abs(seconds - session.slowPlayhead) >= ANSWER) session.slowPlayhead = seconds;
  }
  watch([position, rolling], ([at, rolls]) => {
    if (!rolls) showAt(at);
  });
  /** Where the song stands at this moment: finer than the picture of it. */
  const now = () =>
    player.value?.rolling && player.value.cued ? player.value.position / rate.value : position.value;

  const frames = (seconds: number) => Math.round(seconds * rate.value);

  // What is heard first is there before anybody asks for it: from where it opens, where it stopped, and where it was put.
  const warm = useDebounceFn(() => {
    if (!wished) player.value?.warm(frames(position.value));
  }, 150);
  watch([player, () => session.stems, position, rolling], () => {
    if (!wished) void warm();
  });

  async function roll() {
    const p = player.value;
    if (!p) return;
    wished = true;
    const span = looping.value && loop.value;
    try {
      await p.roll({
        start: frames(position.value),
        loopStart: span ? frames(span.start) : 0,
        loopEnd: span ? frames(span.end) : 0,
      });
    } catch (error) {
      wished = false;
      notices.refused(error);
    }
  }

  async function play() {
    if (remote.value) return ask('play');
    if (wished) return;
    if (length.value > 0 && position.value >= length.value - 0.01) position.value = 0;
    if (looping.value && loop.value && position.value >= loop.value.end) position.value = loop.value.start;
    lateSources.value = new Map();
    await roll();
  }
  function stop() {
    if (remote.value) return void ask('stop');
    wished = false;
    player.value?.halt();
  }
  const toggle = () => ((remote.value ? rolling.value : wished) ? stop() : void play());

  /** Goes to a time; while rolling, goes on from there. */
  function locate(seconds: number) {
    if (remote.value) return void ask('locate', Math.max(0, Math.min(length.value, seconds)));
    position.value = Math.max(0, Math.min(length.value, seconds));
    if (wished) void roll();
    else tell();
  }

  function setLoop(span: { readonly start: number; readonly end: number } | null, on = true) {
    loop.value = span && span.end - span.start >= 0.05 ? span : null;
    looping.value = on && loop.value !== null;
    if (wished) {
      if (looping.value && (position.value < loop.value!.start || position.value >= loop.value!.end))
        position.value = loop.value!.start;
      void roll();
    }
  }

  /** Loops the section at the playhead, or what was looped last; again to stop looping. */
  function toggleLoop() {
    if (remote.value) return void ask('loop');
    if (looping.value) return setLoop(loop.value, false);
    const here = session.document?.sections.find((s) => position.value >= s.start && position.value < s.end);
    setLoop(loop.value ?? (here ? { start: here.start, end: here.end } : { start: 0, end: length.value }));
  }

  return {
    player,
    rolling,
    waiting,
    position,
    now,
    loop,
    looping,
    load,
    worst,
    overruns,
    dropouts,
    gaps,
    late,
    lateSources,
    longerBuffer,
    mono,
    length,
    rate,
    attach,
    attachRemote,
    remote,
    detach,
    play,
    stop,
    toggle,
    locate,
    setLoop,
    toggleLoop,
  };
});
