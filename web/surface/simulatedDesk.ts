import type { MidiAddress, SurfaceProfile } from '@core/surface/profile';
import { control14, midiBytes, MIDI_START, parseMidi, type MidiMessage } from '@core/wire/midi';

/** What a person sees of the simulated desk. */
export interface DeskStrip {
  /** Where the motor has put the fader, 0..16383. */
  fader: number;
  touched: boolean;
  name: string;
  value: string;
  colour: string;
  ring: number;
  lights: { mute: boolean; solo: boolean; pick: boolean };
}

/**
 * A stand-in for a hardware desk: it knows its controls and MIDI bytes, and nothing of sessions. What it is sent moves
 * its motors, displays and lights; what a hand does to it comes out as the bytes that a real one would send.
 */
export class SimulatedDesk {
  readonly strips: DeskStrip[];
  readonly buttons: Record<string, boolean> = {};
  /** What the display over the encoders says. */
  page = '';
  private parser = MIDI_START;
  private upper = new Map<string, number>();

  constructor(
    readonly profile: SurfaceProfile,
    /** Where its bytes go: the code that a real device would reach through a MIDI port. */
    private readonly send: (bytes: readonly number[]) => void,
  ) {
    this.strips = Array.from({ length: profile.width }, () => ({
      fader: 0,
      touched: false,
      name: '',
      value: '',
      colour: '#000000',
      ring: 0,
      lights: { mute: false, solo: false, pick: false },
    }));
  }

  /** Takes bytes as its MIDI input would. */
  receive(bytes: Iterable<number>): void {
    const { messages, state } = parseMidi(this.parser, bytes);
    this.parser = state;
    for (const m of messages) this.obey(m);
  }

  private obey(m: MidiMessage) {
    for (const c of this.profile.controls) {
      if (
        c.kind === 'fader' &&
        c.out?.type === 'control14' &&
        m.type === 'controlChange' &&
        m.channel === c.out.channel
      ) {
        if (m.controller === c.out.controller) this.upper.set(c.id, m.value);
        else if (m.controller === c.out.controller + 32) {
          const strip = this.strips[c.position]!;
          // A motor gives way to the hand.
          if (!strip.touched) strip.fader = ((this.upper.get(c.id) ?? 0) << 7) | m.value;
        }
      } else if (
        c.kind === 'encoder' &&
        c.out?.type === 'control' &&
        m.type === 'controlChange' &&
        m.channel === c.out.channel &&
        m.controller === c.out.controller
      ) {
        this.strips[c.position]!.ring = m.value;
      } else if (
        c.kind === 'button' &&
        c.led?.type === 'note' &&
        (m.type === 'noteOn' || m.type === 'noteOff') &&
        m.channel === c.led.channel &&
        m.note === c.led.note
      ) {
        const lit = m.type === 'noteOn';
        if (c.position === null) this.buttons[c.role] = lit;
        else this.strips[c.position]!.lights[c.role as 'mute' | 'solo' | 'pick'] = lit;
      } else if (c.kind === 'display' && m.type === 'sysex' && this.isFor(c, m.data)) {
        const text = String.fromCharCode(...m.data.slice(c.prefix.length + 1)).trimEnd();
        if (c.position === null) this.page = text;
        else if (c.shows !== 'page') this.strips[c.position]![c.shows] = text;
      } else if (c.kind === 'colour' && m.type === 'sysex' && this.isFor(c, m.data)) {
        const [r = 0, g = 0, b = 0] = m.data.slice(c.prefix.length + 1);
        this.strips[c.position]!.colour =
          `#${[r, g, b].map((v) => (v << 1).toString(16).padStart(2, '0')).join('')}`;
      }
    }
  }

  private isFor(
    c: { readonly prefix: readonly number[]; readonly position: number | null },
    data: readonly number[],
  ) {
    return c.prefix.every((p, i) => data[i] === p) && data[c.prefix.length] === (c.position ?? 0);
  }

  private emit(address: MidiAddress, on: boolean) {
    if (address.type !== 'note') return;
    const { channel, note } = address;
    this.send(
      midiBytes(
        on
          ? { type: 'noteOn', channel, note, velocity: 127 }
          : { type: 'noteOff', channel, note, velocity: 0 },
      ),
    );
  }

  /** A hand lies down on a fader, or lets go. */
  touch(position: number, on: boolean): void {
    const fader = this.profile.controls.find((c) => c.kind === 'fader' && c.position === position);
    this.strips[position]!.touched = on;
    if (fader?.kind === 'fader' && fader.touch) this.emit(fader.touch, on);
  }

  /** A hand moves a fader. @param value 0..16383 */
  move(position: number, value: number): void {
    const fader = this.profile.controls.find((c) => c.kind === 'fader' && c.position === position);
    const at = Math.max(0, Math.min(16383, Math.round(value)));
    this.strips[position]!.fader = at;
    if (fader?.kind === 'fader' && fader.in.type === 'control14')
      this.send(control14(fader.in.channel, fader.in.controller, at));
  }

  /** A knob is turned by so many steps. */
  turn(position: number, steps: number): void {
    const knob = this.profile.controls.find((c) => c.kind === 'encoder' && c.position === position);
    if (knob?.kind === 'encoder' && knob.in.type === 'relative')
      this.send(
        midiBytes({
          type: 'controlChange',
          channel: knob.in.channel,
          controller: knob.in.controller,
          value: 64 + Math.max(-63, Math.min(63, steps)),
        }),
      );
  }

  /** A button is pushed and let go. */
  push(role: string, position: number | null = null): void {
    const button = this.profile.controls.find(
      (c) => c.kind === 'button' && c.role === role && c.position === position,
    );
    if (button?.kind !== 'button') return;
    this.emit(button.in, true);
    this.emit(button.in, false);
  }
}
