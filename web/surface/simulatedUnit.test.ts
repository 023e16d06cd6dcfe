import type { IconId } from '@core/naming/iconIds';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '@core/edits/apply';
import { travelOf } from '@core/levels/faderLaw';
import { deskHost } from '@core/testing/deskHost';
import { feedback } from '@core/surface/feedback';
import { simulatedDesk } from '@core/surface/stands/motorFaders';
import { simulatedEncoders } from '@core/surface/stands/wideEncoders';
import { midiBytes, type MidiMessage } from '@core/wire/midi';
import { SimulatedUnit } from './simulatedUnit';

const bytesOf = (messages: readonly MidiMessage[]) => messages.flatMap((m) => [...midiBytes(m)]);

/** A stand-in and the state machine, joined by nothing but bytes. */
function joined(profile = simulatedDesk) {
  const host = deskHost(demoSession(), [profile]);
  const unit: SimulatedUnit = new SimulatedUnit(profile, (bytes) => {
    host.hear(bytes);
    unit.receive(bytesOf(host.messages()));
  });
  const all = feedback(host.context(), { ...host.state, units: {} });
  unit.receive(all.bytes[host.unit(0)] ?? []);
  const follow = () => unit.receive(bytesOf(host.messages()));
  const push = (id: string) => {
    unit.press(id, true);
    unit.press(id, false);
  };
  return { host, unit, follow, push };
}

describe('a stand-in', () => {
  it('shows names, levels, colours, modes and pan of the first bank', () => {
    const { unit } = joined();
    expect(unit.of('nameText1').text).toBe('FrDrSki');
    expect(unit.of('valueText1').text).toBe('-6.0');
    expect(unit.of('modeText1').text).toBe('READ');
    expect(Math.abs(unit.of('fader1').value - travelOf(-6) * 16383)).toBeLessThan(1);
    expect(unit.of('colour1').colour).toMatch(/^#c[ef]7a5c$/);
    expect(unit.of('icon1').icon).toBe('hand-drum');
    // Pan opens from the centre: style 1 of its ring.
    expect(unit.of('encoder5')).toMatchObject({ style: 1 });
    expect(unit.of('encoder5').value).toBeLessThan(63);
  });
  it('moves the strip when its fader is moved, and its fader when the strip is moved', () => {
    const { host, unit, follow } = joined();
    unit.touch('fader1', true);
    unit.move('fader1', 12287);
    unit.touch('fader1', false);
    expect(host.session.strips[0]!.faderDb).toBeCloseTo(0, 1);
    host.edit(apply(host.session, [{ type: 'strip.set', id: 'skin', patch: { faderDb: -24 } }]).session);
    follow();
    expect(Math.abs(unit.of('fader1').value - travelOf(-24) * 16383)).toBeLessThan(1);
  });
  it('shows another icon when the strip is given one, and none where there is none', () => {
    const { host, unit, follow } = joined();
    const wear = (icon: IconId) =>
      host.edit(apply(host.session, [{ type: 'strip.set', id: 'skin', patch: { icon } }]).session);
    wear('note');
    // F0 7D 5A 07, cell 0, number 40, F7: the last icon that there is.
    const told = bytesOf(host.messages());
    expect(told.join(' ')).toContain([0xf0, 125, 90, 7, 0, 40, 0xf7].join(' '));
    unit.receive(told);
    expect(unit.of('icon1').icon).toBe('note');
    wear('none');
    follow();
    expect(unit.of('icon1').icon).toBe('none');
    // A number that a later program may know is no icon here.
    unit.receive([0xf0, 125, 90, 7, 0, 126, 0xf7]);
    expect(unit.of('icon1').icon).toBe('none');
  });
  it('has a motor that gives way to the hand', () => {
    const { host, unit, follow } = joined();
    unit.touch('fader1', true);
    unit.move('fader1', 5000);
    host.edit(apply(host.session, [{ type: 'strip.set', id: 'skin', patch: { faderDb: 6 } }]).session);
    follow();
    expect(unit.of('fader1').value).toBe(5000);
  });
  it('brings the next eight under the hands, and lights what leads on', () => {
    const { unit, push } = joined();
    push('bankRight');
    expect(unit.of('nameText1').text).toBe('BassMic');
    expect(unit.of('bankLeft').light).toBe(127);
    push('bankLeft');
    expect(unit.of('nameText1').text).toBe('FrDrSki');
    expect(unit.of('bankLeft').light).toBe(0);
  });
  it('lights what is muted, and turns pan', () => {
    const { host, unit, push } = joined();
    push('mute3');
    expect(host.session.strips[2]!.mute).toBe(true);
    expect(unit.of('mute3').light).toBe(127);
    unit.turn('encoder2', 10);
    expect(host.session.strips[1]!.pan).toBeCloseTo(0.35, 5);
  });
  it("lays the picked strip's inserts along its encoders, a page at a time, and pan again after the last", () => {
    const { host, unit, follow, push } = joined();
    const page = () => unit.of('page').text;
    const voice = () => host.session.strips.find((s) => s.id === 'lead-voice')!;
    expect(page()).toBe('Pan');
    // None under the first eight faders has an insert.
    push('insert');
    expect(page()).toBe('No insert here. Pick a strip with one');
    host.wait(3000);
    host.pick(['lead-voice']);
    follow();
    push('insert');
    expect(page()).toBe('EQ 1/4 Lead voice: Low cut, Low shelf');
    expect(unit.of('pageLeft').light).toBe(0);
    expect(unit.of('pageRight').light).toBe(127);
    expect(unit.of('valueText1').text).toBe('On');
    expect(unit.of('encoder1').value).toBe(127);
    expect(unit.of('valueText2').text).toBe('90 Hz');
    push('pageRight');
    push('pageRight');
    // Bell 3 begins the third page: on, frequency, gain, Q.
    expect(unit.of('valueText2').text).toBe('3.2 kHz');
    expect(unit.of('valueText3').text).toBe('+2.5 dB');
    unit.turn('encoder3', 5);
    expect(voice().inserts[0]!.params.bell3Gain).toBeCloseTo(4.9, 1);
    expect(unit.of('valueText3').text).toBe('+4.9 dB');
    push('pageRight');
    push('pageRight');
    expect(page()).toMatch(/4\/4/);
    expect(unit.of('pageRight').light).toBe(0);
    push('insert');
    expect(page()).toMatch(/^Comp/);
    expect(unit.of('valueText1').text).toBe('-17.0dB');
    push('insert');
    expect(page()).toBe('Pan');
    expect(unit.of('nameText1').text).toBe('FrDrSki');
  });
  it('with 32 encoders shows a whole equalizer at once, and turns and pushes by its own coding', () => {
    const { host, unit, follow, push } = joined(simulatedEncoders);
    host.pick(['lead-voice']);
    follow();
    push('alongEqualizer');
    expect(unit.of('page').text).toMatch(/^EQ Lead voice/);
    expect(unit.of('nameText30').text).toMatch(/^HiC/);
    const gain = () => host.session.strips.find((s) => s.id === 'lead-voice')!.inserts[0]!.params.bell3Gain!;
    const was = gain();
    unit.turn('encoder19', -7);
    expect(gain()).toBeCloseTo(was - 7 * 0.48, 0);
    push('encoder19');
    expect(gain()).toBe(0);
  });
});
