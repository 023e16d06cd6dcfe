import { control14, midiBytes } from '../wire/midi';
import { type Lit } from './marks';
import type { Light, MidiAddress } from './profile/fields';
import { BLINK_MS } from './state';

export function addressBytes(address: MidiAddress, share: number): readonly number[] {
  switch (address.type) {
    case 'control14':
      return control14(address.channel, address.controller, share * 16383);
    case 'pitchBend':
      return midiBytes({ type: 'pitchBend', channel: address.channel, value: share * 16383 });
    case 'control':
      return valueBytes(address, share * 127);
    case 'note':
      return valueBytes(address, share * 127);
    case 'parameter': {
      const value = Math.round(share * 16383);
      const change = (controller: number, v: number) =>
        midiBytes({ type: 'controlChange', channel: address.channel, controller, value: v });
      return [
        ...change(99, address.parameter >> 7),
        ...change(98, address.parameter & 127),
        ...change(6, value >> 7),
        ...change(38, value & 127),
      ];
    }
  }
}
/** A value of seven bits, by a note's velocity or a controller. */
export function valueBytes(address: MidiAddress, value: number): readonly number[] {
  if (address.type === 'note')
    return midiBytes({ type: 'noteOn', channel: address.channel, note: address.note, velocity: value });
  if (address.type === 'control')
    return midiBytes({
      type: 'controlChange',
      channel: address.channel,
      controller: address.controller,
      value,
    });
  return addressBytes(address, value / 127);
}
export const lightValue = (light: Light, lit: Lit, now: number): number => {
  if (lit === 'off') return 0;
  if (lit === 'dim') return light.dim ?? light.on;
  if (lit === 'blink') return Math.floor(now / BLINK_MS) % 2 ? 0 : light.on;
  return light.on;
};

export const textBytes = (prefix: readonly number[], cell: number, text: string, characters: number) =>
  midiBytes({
    type: 'sysex',
    data: [
      ...prefix,
      cell,
      ...[...text.slice(0, characters).padEnd(characters)].map((c) => c.charCodeAt(0) & 0x7f),
    ],
  });

/** @param icon its number among the icons, 0 for none */
export const iconBytes = (prefix: readonly number[], cell: number, icon: number) =>
  midiBytes({ type: 'sysex', data: [...prefix, cell, icon & 0x7f] });

export const colourBytes = (prefix: readonly number[], cell: number, hex: string) => {
  const part = (i: number) => parseInt(hex.slice(i, i + 2), 16) >> 1;
  return midiBytes({ type: 'sysex', data: [...prefix, cell, part(1), part(3), part(5)] });
};
