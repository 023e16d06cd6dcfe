import { valueOf } from '../processors/description';
import { onStep, travelAt, turned, valueAtTravel } from '../processors/law';
import { processorOf } from '../processors/registry';
import { parameterName, parameterText } from '../processors/text';
import type { Command } from '../edits/commands';
import { nameOf } from '../session/lookup';
import type { Insert, Session, Strip } from '../session/types';
import type { Id } from '../base/units';
import { processorPages, type EncoderPage } from './processorPages';

/**
 * What the encoders steer: pan, a strip each, or one insert along all of them, a page at a time. `none`: an insert was
 * asked for, and there is none.
 */
export type EncoderPlan =
  | { readonly of: 'pan'; readonly none?: true }
  | { readonly of: 'insert'; readonly strip: Id; readonly insert: Id; readonly page: number };
export const PAN_PLAN: EncoderPlan = { of: 'pan' };

/** One encoder, as it stands. */
export interface EncoderBinding {
  /** What it steers, in full. */
  readonly name: string;
  readonly text: string;
  /** Where its value stands on its way, 0..1. */
  readonly travel: number;
  readonly label: string;
  /** The edit that so many detents make. */
  turn(detents: number): readonly Command[];
  /** The edit that brings it to a place of its way. */
  put(travel: number): readonly Command[];
}

/** Detents across the whole stereo field, from its middle to one side. */
const PAN_DETENTS = 50;

function panBinding(strip: Strip): EncoderBinding {
  const set = (pan: number): readonly Command[] => [
    {
      type: 'strip.set',
      id: strip.id,
      patch: { pan: Math.max(-1, Math.min(1, Math.round(pan * 100) / 100)) },
    },
  ];
  return {
    name: 'Pan',
    text: String(Math.round(strip.pan * 100)),
    travel: (strip.pan + 1) / 2,
    label: `pan ${strip.name || strip.id}`,
    turn: (detents) => set(strip.pan + detents / PAN_DETENTS),
    put: (travel) => set(travel * 2 - 1),
  };
}

interface Steered {
  readonly strip: Strip;
  readonly insert: Insert;
  readonly pages: readonly EncoderPage[];
  readonly page: number;
}

/** The insert that the encoders steer; null where they steer pan, or where the insert is gone. */
export function steered(session: Session, plan: EncoderPlan, encoders: number): Steered | null {
  if (plan.of === 'pan') return null;
  const strip = session.strips.find((s) => s.id === plan.strip);
  const insert = strip?.inserts.find((i) => i.id === plan.insert);
  if (!strip || !insert) return null;
  const pages = processorPages(processorOf(insert.type), encoders);
  return { strip, insert, pages, page: Math.min(plan.page, pages.length - 1) };
}

/** What each encoder does now; null where it does nothing. @param shown the strips over which they stand */
export function encoderBindings(
  session: Session,
  plan: EncoderPlan,
  shown: readonly (Strip | null)[],
): readonly (EncoderBinding | null)[] {
  const now = steered(session, plan, shown.length);
  if (!now) return shown.map((s) => s && panBinding(s));
  const { strip, insert } = now;
  const { parameters, name } = processorOf(insert.type);
  return now.pages[now.page]!.encoders.map((p) => {
    if (!p) return null;
    const value = valueOf(p, insert.params);
    const set = (next: number): readonly Command[] => [
      {
        type: 'insert.set',
        strip: strip.id,
        id: insert.id,
        patch: { params: { ...insert.params, [p.id]: next } },
      },
    ];
    return {
      name: parameterName(p, parameters),
      text: parameterText(p, value),
      travel: travelAt(p, value),
      label: `${parameterName(p, parameters).toLowerCase()} of ${name}, ${strip.name || strip.id}`,
      turn: (detents) => set(turned(p, value, detents)),
      put: (travel) => set(onStep(p, valueAtTravel(p, travel))),
    };
  });
}

/** Where one push of the insert button leads: through the strip's inserts, and back to pan after the last. */
export function nextPlan(session: Session, plan: EncoderPlan, strip: Id | undefined): EncoderPlan {
  const inserts = session.strips.find((s) => s.id === strip)?.inserts ?? [];
  if (!inserts.length) return { of: 'pan', none: true };
  const at =
    plan.of === 'insert' && plan.strip === strip ? inserts.findIndex((i) => i.id === plan.insert) : -1;
  const next = inserts[at + 1];
  return next ? { of: 'insert', strip: strip!, insert: next.id, page: 0 } : PAN_PLAN;
}

/** Another page of the same insert, as far as there is one. */
export function turnPage(session: Session, plan: EncoderPlan, by: 1 | -1, encoders: number): EncoderPlan {
  const now = steered(session, plan, encoders);
  if (!now || plan.of !== 'insert') return plan;
  return { ...plan, page: Math.max(0, Math.min(now.pages.length - 1, now.page + by)) };
}

/** What the display of the page says: `Equalizer 2/4 Lead voice: Bell 1, Bell 2`. */
export function planText(session: Session, plan: EncoderPlan, encoders: number): string {
  const now = steered(session, plan, encoders);
  if (!now) return plan.of === 'pan' && plan.none ? 'No insert here. Pick a strip with one' : 'Pan';
  const { pages, page, strip, insert } = now;
  const of = pages.length > 1 ? ` ${page + 1}/${pages.length}` : '';
  const groups = pages[page]!.name ? `: ${pages[page]!.name}` : '';
  return `${processorOf(insert.type).shortName}${of} ${nameOf(session, strip.id)}${groups}`;
}
