import { processorOf } from '../processors/registry';
import type { Insert, Session } from '../session/types';
import { hasEveryField } from './completeSchema';

/** Whether an insert has no parameters but those of its processor, each within its range; the session's rules see to lanes. */
function parametersFit({ type, params }: Insert): boolean {
  const { parameters } = processorOf(type);
  return Object.entries(params).every(([id, value]) => {
    const parameter = parameters.find((p) => p.id === id);
    return parameter && typeof value === 'number' && value >= parameter.min && value <= parameter.max;
  });
}

/**
 * Whether a document is of the format and has every field in its place, as all that are written by the program: then there
 * is no default to fill in.
 */
export const isComplete = (raw: unknown): raw is Session =>
  hasEveryField(raw) && raw.strips.every((s) => s.inserts.every(parametersFit));
