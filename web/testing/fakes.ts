import type { Command } from '@core/edits/commands';
import type { Change } from '@core/edits/history';
import type { Session } from '@core/session/types';
import type { SyncEvents } from '@/session/sync/sessionSync';

/** Takes the place of what carries edits to the server: nothing is kept until a test says so. */
export class FakeSync {
  static last: FakeSync;
  readonly told: { readonly drag: string; readonly commands: readonly Command[] | null }[] = [];
  caughtUp = 0;
  closed = false;
  constructor(
    _session: string,
    readonly events: SyncEvents,
    readonly revision: () => number,
  ) {
    FakeSync.last = this;
  }
  flush() {}
  live(drag: string, commands: readonly Command[] | null) {
    this.told.push({ drag, commands });
  }
  readonly said: object[] = [];
  readonly asks: object[] = [];
  /** Whether the window that is asked is there. */
  there = true;
  say(_message: string, value: object) {
    this.said.push(value);
  }
  async asked(_message: string, value: object) {
    this.asks.push(value);
    return { ok: this.there };
  }
  catchUp() {
    this.caughtUp++;
    return Promise.resolve();
  }
  close() {
    this.closed = true;
  }
  /** Has the server keep the oldest edit that waits. */
  keepNext(): Change {
    const { change, revision } = this.events.next()!;
    const kept = { ...change, revision: revision + 1 };
    this.events.kept(kept);
    return kept;
  }
}

/** Takes the place of the live engine. */
export class FakePlayer {
  static last: FakePlayer;
  started = false;
  rolling = false;
  cued = true;
  position = 0;
  load = 0;
  worst = 0;
  overruns = 0;
  dropouts = 0;
  gaps: { readonly times: number; readonly seconds: number } | null = null;
  readonly calls: string[] = [];
  cue: unknown = null;
  /** Why it cannot play, where it cannot. */
  broken: Error | null = null;
  constructor(
    public buffer: number,
    private readonly heard: () => Session | null,
    readonly late: (sources: readonly object[]) => void = () => {},
  ) {
    FakePlayer.last = this;
  }
  update() {
    const session = this.heard();
    if (session) this.calls.push(`update ${session.name}`);
  }
  async roll(cue: unknown) {
    if (this.broken) throw this.broken;
    this.calls.push('roll');
    this.cue = cue;
    this.started = this.rolling = true;
  }
  readonly warmed: number[] = [];
  warm(start: number) {
    this.warmed.push(start);
  }
  halt() {
    this.calls.push('halt');
    this.rolling = false;
  }
  async rebuffer(buffer: number) {
    this.calls.push(`rebuffer ${buffer}`);
    await new Promise((done) => setTimeout(done, 5));
    this.calls.push(`has ${buffer}`);
    this.buffer = buffer;
  }
  async close() {
    this.calls.push('close');
  }
  setMonitorGain() {}
  setMono(on: boolean) {
    this.calls.push(on ? 'mono' : 'stereo');
  }
  readonly live = {
    setScale: (id: string) => void this.calls.push(`scale ${id}`),
    watch: () => () => {},
    read: () => null,
    restart: () => void this.calls.push('measure anew'),
  };
}
