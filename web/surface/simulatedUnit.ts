import { shallowReactive } from 'vue';
import type { Light, MidiAddress } from '@core/surface/profile/fields';
import { ICON_IDS, type IconId } from '@core/naming/iconIds';
import { addressKey, type Control, type SurfaceProfile } from '@core/surface/profile/profile';
import { struck } from '@core/surface/stands/keyboard';
import { control14, midiBytes, MIDI_START, parseMidi, type MidiMessage } from '@core/wire/midi';

/** What a person sees of one control. */
export interface Seen {
  /** Where a fader stands, 0..16383; what a ring, a meter or a light shows, 0..127. */
  readonly value: number;
  /** How a ring shows it: see the profile. */
  readonly style: number;
  /** How brightly its own light shines, 0..127. */
  readonly light: number;
  readonly text: string;
  readonly colour: string;
  readonly icon: IconId;
  /** Whether a hand is on it. */
  readonly touched: boolean;
}
const DARK: Seen = {
  value: 0,
  style: 0,
  light: 0,
  text: '',
  colour: '#000000',
  icon: 'none',
  touched: false,
};

/**
 * A stand-in for a device: it knows its controls and MIDI bytes, and nothing of sessions. What it is sent moves its motors, displays
 * and lights; what a hand does to it comes out as the bytes that a real one would send.
 */
export class SimulatedUnit {
  /** By the control's id. */
  readonly seen = shallowReactive(new Map<string, Seen>());
  private parser = MIDI_START;
  private readonly upper = new Map<string, number>();
  private readonly outputs = new Map<string, (value: number) => void>();
  private readonly byId: ReadonlyMap<string, Control>;

  constructor(
    readonly profile: SurfaceProfile,
    /** Where its bytes go: the code that a real device would reach through a MIDI port. */
    private readonly send: (bytes: readonly number[]) => void,
  ) {
    this.byId = new Map(profile.controls.map((c) => [c.id, c]));
    for (const c of profile.controls) this.listen(c);
  }

  of(id: string): Seen {
    return this.seen.get(id) ?? DARK;
  }
  private see(id: string, patch: Partial<Seen>) {
    this.seen.set(id, { ...this.of(id), ...patch });
  }

  /** Says what each message does to a control. */
  private listen(c: Control) {
    const on = (address: MidiAddress | null | undefined, obey: (value: number) => void) => {
      if (address) this.outputs.set(addressKey(address), obey);
    };
    const shine = (light: Light | null) => on(light?.address, (v) => this.see(c.id, { light: v }));
    switch (c.kind) {
      case 'fader': {
        const go = (value: number) => {
          // A motor gives way to the hand.
          if (!this.of(c.id).touched) this.see(c.id, { value });
        };
        if (c.out?.type === 'control14') {
          on(c.out, (v) => this.upper.set(c.id, v));
          on({ ...c.out, controller: c.out.controller + 32 }, (v) =>
            go(((this.upper.get(c.id) ?? 0) << 7) | v),
          );
        } else on(c.out, c.out?.type === 'pitchBend' ? go : (v) => go(Math.round((v / 127) * 16383)));
        break;
      }
      case 'encoder':
        on(c.ring?.address, (value) => this.see(c.id, { value }));
        on(c.ring?.style, (style) => this.see(c.id, { style }));
        shine(c.light);
        break;
      case 'key':
        shine(c.light);
        break;
      case 'meter':
        on(c.address, (value) => this.see(c.id, { value }));
        break;
      // What is told by system exclusive is looked for when it comes.
      case 'display':
      case 'colour':
      case 'icon':
        break;
    }
  }

  /** Takes bytes as its MIDI input would. */
  receive(bytes: Iterable<number>): void {
    const { messages, state } = parseMidi(this.parser, bytes);
    this.parser = state;
    for (const m of messages) this.obey(m);
  }

  private obey(m: MidiMessage) {
    if (m.type === 'sysex') return this.show(m.data);
    const [key, value] =
      m.type === 'controlChange'
        ? [`control ${m.channel} ${m.controller}`, m.value]
        : m.type === 'noteOn'
          ? [`note ${m.channel} ${m.note}`, m.velocity]
          : m.type === 'noteOff'
            ? [`note ${m.channel} ${m.note}`, 0]
            : m.type === 'pitchBend'
              ? [`bend ${m.channel}`, m.value]
              : ['', 0];
    this.outputs.get(key)?.(value);
  }

  private show(data: readonly number[]) {
    for (const c of this.profile.controls) {
      if (c.kind !== 'display' && c.kind !== 'colour' && c.kind !== 'icon') continue;
      const { prefix } = c;
      if (!prefix.every((p, i) => data[i] === p) || data[prefix.length] !== (c.cell ?? c.position ?? 0))
        continue;
      const rest = data.slice(prefix.length + 1);
      if (c.kind === 'display') this.see(c.id, { text: String.fromCharCode(...rest).trimEnd() });
      else if (c.kind === 'icon') this.see(c.id, { icon: ICON_IDS[rest[0] ?? 0] ?? 'none' });
      else {
        const [r = 0, g = 0, b = 0] = rest;
        const two = (v: number) => (v << 1).toString(16).padStart(2, '0');
        this.see(c.id, { colour: `#${two(r)}${two(g)}${two(b)}` });
      }
    }
  }

  private strokes = 0;
  private say(address: MidiAddress | null, on: boolean, velocity = 127) {
    if (address?.type === 'note')
      this.send(
        midiBytes(
          on
            ? { type: 'noteOn', channel: address.channel, note: address.note, velocity }
            : { type: 'noteOff', channel: address.channel, note: address.note, velocity: 0 },
        ),
      );
    else if (address?.type === 'control')
      this.send(
        midiBytes({
          type: 'controlChange',
          channel: address.channel,
          controller: address.controller,
          value: on ? 127 : 0,
        }),
      );
  }

  /** A hand lies down on a fader or an encoder, or lets go. */
  touch(id: string, on: boolean): void {
    const c = this.byId.get(id);
    if (c?.kind !== 'fader' && c?.kind !== 'encoder') return;
    this.see(id, { touched: on });
    this.say(c.touch, on);
  }
  /** A hand is gone without having said so. */
  letGo(id: string): void {
    this.see(id, { touched: false });
  }
  /** A hand moves a fader. @param value 0..16383 */
  move(id: string, value: number): void {
    const c = this.byId.get(id);
    if (c?.kind !== 'fader') return;
    const at = Math.max(0, Math.min(16383, Math.round(value)));
    const was = this.of(id).value;
    this.see(id, { value: at });
    // Of seven bits nothing is said that was said before.
    if (c.in.type === 'control' && Math.round((at / 16383) * 127) === Math.round((was / 16383) * 127)) return;
    if (c.in.type === 'control14') this.send(control14(c.in.channel, c.in.controller, at));
    else if (c.in.type === 'pitchBend')
      this.send(midiBytes({ type: 'pitchBend', channel: c.in.channel, value: at }));
    else if (c.in.type === 'control')
      this.send(
        midiBytes({
          type: 'controlChange',
          channel: c.in.channel,
          controller: c.in.controller,
          value: (at / 16383) * 127,
        }),
      );
  }
  /** An encoder is turned by so many steps; a knob with ends by so many 127ths of its way. */
  turn(id: string, steps: number): void {
    const c = this.byId.get(id);
    if (c?.kind !== 'encoder' || c.in.type !== 'control') return;
    if (c.coding === 'position') {
      const at = Math.max(0, Math.min(127, this.of(id).value + Math.round(steps)));
      if (at === this.of(id).value) return;
      this.see(id, { value: at });
      return this.send(
        midiBytes({
          type: 'controlChange',
          channel: c.in.channel,
          controller: c.in.controller,
          value: at,
        }),
      );
    }
    const by = Math.max(-63, Math.min(63, Math.round(steps)));
    const value =
      c.coding === 'offset' ? 64 + by : c.coding === 'signBit' ? (by < 0 ? 64 - by : by) : (by + 128) & 127;
    this.send(
      midiBytes({ type: 'controlChange', channel: c.in.channel, controller: c.in.controller, value }),
    );
  }
  /** A key, or an encoder that can be pushed, goes down or up. */
  press(id: string, down: boolean): void {
    const c = this.byId.get(id);
    if (c?.kind === 'key') {
      this.see(id, { touched: down });
      this.say(c.in, down, down ? struck(this.profile.id, id, ++this.strokes) : 0);
    } else if (c?.kind === 'encoder') this.say(c.push, down);
  }
}
