import { computed, shallowRef } from 'vue';
import type { SessionSync } from './sessionSync';

/** Where a window that plays stands. */
export interface Standing {
  readonly rolling: boolean;
  readonly position: number;
  readonly looping: boolean;
  readonly loop: { readonly start: number; readonly end: number } | null;
}
/** Another window that plays, and when it said so, by this window's clock in milliseconds. */
export interface Player extends Standing {
  readonly from: string;
  readonly at: number;
}
export type TransportAsk = 'play' | 'stop' | 'loop' | 'locate';

/** Which other windows play this session, and how they are asked. */
export function usePlaying(sync: () => SessionSync | null) {
  const all = shallowRef<ReadonlyMap<string, Player>>(new Map());
  /** The one that is heard: one that rolls, else the one that spoke last. */
  const other = computed<Player | null>(() => {
    const list = [...all.value.values()];
    return list.find((p) => p.rolling) ?? list.at(-1) ?? null;
  });
  /** Whether the server is reached. */
  const connected = shallowRef(false);
  let answer: ((ask: TransportAsk, at: number | undefined) => void) | null = null;
  let tellAnew: (() => void) | null = null;

  const without = (from: string) => new Map([...all.value].filter(([id]) => id !== from));
  return {
    other,
    connected,
    /** What this window does when it is asked, and how it says where it stands. */
    serve(how: { answer: typeof answer; tell: () => void } | null) {
      answer = how?.answer ?? null;
      tellAnew = how?.tell ?? null;
    },
    tell: (standing: Standing) => sync()?.say('playing', standing),
    /** Asks the window that plays. @returns whether there is one */
    async ask(ask: TransportAsk, at?: number): Promise<boolean> {
      const to = other.value?.from;
      if (to === undefined) return false;
      const { ok } = (await sync()?.asked('transport', { to, ask, ...(at === undefined ? {} : { at }) })) ?? {
        ok: false,
      };
      // It says that it plays, and has gone.
      if (!ok) all.value = without(to);
      return ok;
    },
    events: {
      playing(from: string, standing: Standing) {
        const next = new Map(without(from));
        next.set(from, { ...standing, from, at: performance.now() });
        all.value = next;
      },
      asked: (ask: TransportAsk, at?: number) => answer?.(ask, at),
      joined: () => tellAnew?.(),
      connected(is: boolean) {
        connected.value = is;
        if (!is) all.value = new Map();
        else tellAnew?.();
      },
    },
    left: (from: string) => (all.value = without(from)),
    clear() {
      all.value = new Map();
      connected.value = false;
    },
  };
}
