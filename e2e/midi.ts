import type { Page } from '@playwright/test';

/** What a test does with devices. */
export interface Midi {
  /** A device says something. */
  say(id: string, bytes: number[]): void;
  pull(id: string): void;
  plug(id: string, name: string): void;
  /** What each was told. */
  readonly sent: Record<string, number[]>;
}

/**
 * Gives a page a MIDI that keeps to the interface of the Web MIDI API (W3C): ports, states, messages.
 * @param devices names by ids
 * @returns does something with them, in the page; nothing from outside of the function is known there
 */
export async function plugIn(page: Page, devices: Readonly<Record<string, string>>) {
  await page.addInitScript((named: Readonly<Record<string, string>>) => {
    const inputs = new Map<string, unknown>();
    const outputs = new Map<string, unknown>();
    const sent: Record<string, number[]> = {};
    const access = { inputs, outputs, onstatechange: null as (() => void) | null, sysexEnabled: true };
    const port = (id: string, name: string, type: string) => ({
      id,
      name,
      type,
      state: 'connected',
      onmidimessage: null as ((e: { data: Uint8Array }) => void) | null,
      open: async () => {},
      close: async () => {},
      send: (bytes: number[]) => void (sent[id] ??= []).push(...bytes),
    });
    const midi = {
      sent,
      plug(id: string, name: string) {
        inputs.set(id, port(id, name, 'input'));
        outputs.set(id, port(id, name, 'output'));
        access.onstatechange?.();
      },
      pull(id: string) {
        for (const list of [inputs, outputs]) (list.get(id) as { state: string }).state = 'disconnected';
        access.onstatechange?.();
      },
      say: (id: string, bytes: number[]) =>
        (inputs.get(id) as ReturnType<typeof port>).onmidimessage?.({ data: Uint8Array.from(bytes) }),
    };
    Object.assign(window, { midi });
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access });
    for (const [id, name] of Object.entries(named)) midi.plug(id, name);
  }, devices);
  return <T>(what: (midi: Midi) => T) => page.evaluate(`(${what.toString()})(window.midi)`) as Promise<T>;
}
