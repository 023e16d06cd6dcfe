import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '@core/edits/apply';
import { travelOf } from '@core/levels/faderLaw';
import { validProfile } from '@core/surface/profile';
import simulated from '@core/surface/profiles/simulatedDesk.json';
import { feedback, receive, SURFACE_START, type SurfaceState } from '@core/surface/surface';
import { SimulatedDesk } from './simulatedDesk';

const profile = validProfile(simulated);

/** Desk and state machine, joined by nothing but bytes. */
function joined() {
  let session = demoSession();
  let state: SurfaceState = SURFACE_START;
  const desk: SimulatedDesk = new SimulatedDesk(profile, (bytes) => {
    const step = receive(session, state, bytes, profile);
    state = step.state;
    for (const a of step.actions)
      if (a.type === 'commit' || a.type === 'settle') session = apply(session, a.commands).session;
    refresh();
  });
  const refresh = () => {
    const f = feedback(session, state, profile);
    state = f.state;
    desk.receive(f.bytes);
  };
  refresh();
  return {
    desk,
    strip: (i: number) => session.strips[i]!,
    pick: (id: string) => ((state = { ...state, picked: [id] }), refresh()),
    edit: (s: typeof session) => ((session = s), refresh()),
    session: () => session,
  };
}

describe('the simulated desk', () => {
  it('shows names, levels, colours and pan of the first bank', () => {
    const { desk } = joined();
    expect(desk.strips[0]).toMatchObject({ name: 'FrDrSki', value: '-6.0' });
    expect(Math.abs(desk.strips[0]!.fader - travelOf(-6) * 16383)).toBeLessThan(1);
    expect(desk.strips[0]!.colour).toMatch(/^#c[ef]7a5c$/);
    expect(desk.strips[4]!.ring).toBeLessThan(63);
  });
  it('moves the strip when its fader is moved, and its fader when the strip is moved', () => {
    const { desk, strip, edit, session } = joined();
    desk.touch(0, true);
    desk.move(0, 12287);
    desk.touch(0, false);
    expect(strip(0).faderDb).toBeCloseTo(0, 1);
    edit(apply(session(), [{ type: 'strip.set', id: strip(0).id, patch: { faderDb: -24 } }]).session);
    expect(Math.abs(desk.strips[0]!.fader - travelOf(-24) * 16383)).toBeLessThan(1);
  });
  it('brings the next eight under the hands', () => {
    const { desk } = joined();
    desk.push('bankRight');
    expect(desk.strips.map((s) => s.name)[0]).toBe('BasCabi');
    expect(desk.buttons.bankLeft).toBe(true);
    desk.push('bankLeft');
    expect(desk.strips[0]!.name).toBe('FrDrSki');
  });
  it('lights what is muted, and turns pan', () => {
    const { desk, strip } = joined();
    desk.push('mute', 2);
    expect(strip(2).mute).toBe(true);
    expect(desk.strips[2]!.lights.mute).toBe(true);
    desk.turn(1, 10);
    expect(strip(1).pan).toBeCloseTo(0.35, 5);
  });
  it("lays the picked strip's inserts along its encoders, a page at a time, and pan again after the last", () => {
    const { desk, pick, session } = joined();
    const voice = () => session().strips.find((s) => s.id === 'lead-voice')!;
    expect(desk.page).toBe('Pan');
    // None under the first eight faders has an insert.
    desk.push('insert');
    expect(desk.page).toBe('No insert here. Pick a strip with one');
    pick('lead-voice');
    desk.push('insert');
    expect(desk.page).toBe('EQ 1/4 Lead voice: Low cut, Low shelf');
    expect(desk.buttons).toMatchObject({ insert: true, pageLeft: false, pageRight: true });
    expect(desk.strips[0]).toMatchObject({ value: 'On', ring: 127 });
    expect(desk.strips[1]!.value).toBe('90 Hz');
    desk.push('pageRight');
    desk.push('pageRight');
    // Bell 3 begins the third page: on, frequency, gain, Q.
    expect(desk.strips[1]!.value).toBe('3.2 kHz');
    expect(desk.strips[2]!.value).toBe('+2.5 dB');
    desk.turn(2, 5);
    expect(voice().inserts[0]!.params.bell3Gain).toBeCloseTo(4.9, 1);
    expect(desk.strips[2]!.value).toBe('+4.9 dB');
    desk.push('pageRight');
    desk.push('pageRight');
    expect(desk.page).toMatch(/4\/4/);
    expect(desk.buttons.pageRight).toBe(false);
    desk.push('insert');
    expect(desk.page).toMatch(/^Comp/);
    expect(desk.strips[0]!.value).toBe('-17.0dB');
    desk.push('insert');
    expect(desk.page).toBe('Pan');
    expect(desk.strips[0]!.name).toBe('FrDrSki');
    expect(desk.buttons.insert).toBe(false);
  });
  it('takes the first strip under the hands that has inserts where none is picked', () => {
    const { desk, session } = joined();
    for (let i = 0; i < 4; i++) desk.push('bankRight');
    desk.push('insert');
    const names = session()
      .strips.filter((s) => s.inserts.length)
      .map((s) => s.name);
    expect(names.some((n) => desk.page.includes(n))).toBe(true);
  });
  it('goes back to pan when the insert on its encoders is removed', () => {
    const { desk, pick, edit, session } = joined();
    pick('lead-voice');
    desk.push('insert');
    const { id } = session().strips.find((s) => s.id === 'lead-voice')!.inserts[0]!;
    edit(apply(session(), [{ type: 'insert.remove', strip: 'lead-voice', id }]).session);
    expect(desk.page).toBe('Pan');
    expect(desk.strips[0]!.name).toBe('FrDrSki');
  });
});
