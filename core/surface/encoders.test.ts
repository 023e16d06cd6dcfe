import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { newInsert } from '../session/defaults';
import { processors } from '../processors/registry';
import { encoderBindings, nextPlan, PAN_PLAN, planText, turnPage, type EncoderPlan } from './encoders';

const demo = demoSession();
const voice = demo.strips.find((s) => s.id === 'lead-voice')!;
const shown = demo.strips.slice(0, 8);

describe('what encoders steer', () => {
  it('is pan, a strip each, and nothing where there is no strip', () => {
    const bindings = encoderBindings(demo, PAN_PLAN, [voice, null]);
    expect(bindings[0]).toMatchObject({ name: 'Pan', travel: (voice.pan + 1) / 2 });
    expect(bindings[1]).toBeNull();
    expect(apply(demo, bindings[0]!.put(1)).session.strips.find((s) => s.id === 'lead-voice')!.pan).toBe(1);
    expect(apply(demo, bindings[0]!.turn(-500)).session.strips.find((s) => s.id === voice.id)!.pan).toBe(-1);
  });
  it('goes through the inserts of a strip, and back to pan', () => {
    let plan: EncoderPlan = PAN_PLAN;
    const seen: string[] = [];
    for (let i = 0; i <= voice.inserts.length; i++) {
      plan = nextPlan(demo, plan, voice.id);
      seen.push(plan.of === 'insert' ? plan.insert : plan.of);
    }
    expect(seen).toEqual([...voice.inserts.map((i) => i.id), 'pan']);
  });
  it('begins with the first insert of another strip', () => {
    const plan = nextPlan(demo, nextPlan(demo, PAN_PLAN, voice.id), 'plate');
    expect(plan).toMatchObject({ of: 'insert', strip: 'plate' });
  });
  it('says so where a strip has none, or is not there', () => {
    for (const id of ['main', 'nowhere', undefined]) {
      const plan = nextPlan(demo, PAN_PLAN, id);
      expect(plan.of).toBe('pan');
      expect(planText(demo, plan, 8)).toMatch(/No insert/);
    }
  });
  it('stops at the first and at the last page', () => {
    const first = nextPlan(demo, PAN_PLAN, voice.id);
    expect(turnPage(demo, first, -1, 8)).toEqual(first);
    let plan = first;
    for (let i = 0; i < 9; i++) plan = turnPage(demo, plan, 1, 8);
    expect(plan).toMatchObject({ page: 3 });
    expect(turnPage(demo, PAN_PLAN, 1, 8)).toBe(PAN_PLAN);
  });
  it.each(processors.map((p) => [p.type, p] as const))(
    'of %s, put to either end of its way, gives the ends of every parameter, which the session takes',
    (type, p) => {
      let session = apply(demo, [
        {
          type: 'insert.add',
          strip: p.channels === 'stereo' ? 'plate' : voice.id,
          insert: newInsert({ id: 'tried', type }),
          at: 0,
        },
      ]).session;
      const strip = session.strips.find((s) => s.inserts.some((i) => i.id === 'tried'))!.id;
      const pages = Math.ceil(p.parameters.length / 4) + 1;
      for (const end of [0, 1])
        for (let page = 0; page < pages; page++)
          for (let k = 0; k < 8; k++) {
            const plan: EncoderPlan = { of: 'insert', strip, insert: 'tried', page };
            const binding = encoderBindings(session, plan, shown)[k];
            if (!binding) continue;
            session = apply(session, binding.put(end)).session;
            expect(encoderBindings(session, plan, shown)[k]!.travel).toBeCloseTo(end, 9);
          }
      const { params } = session.strips.find((s) => s.id === strip)!.inserts.find((i) => i.id === 'tried')!;
      for (const q of p.parameters) expect(params[q.id], q.id).toBe(q.max);
    },
  );
});
