import { levelText } from '../levels/decibels';
import { valueOf, type Parameter, type Params } from './description';
import { processorOf } from './registry';

/** Digits after the point that a step of a parameter can show. */
const digits = (p: Parameter) => Math.max(0, -Math.floor(Math.log10(p.step) + 1e-9));

/** A parameter's value as it is written: `−18.0 dB`, `2.5 kHz`, `3.0 : 1`, `Peak`. */
export function parameterText(p: Parameter, value: number): string {
  if (p.choices) return p.choices[Math.max(0, Math.min(p.choices.length - 1, Math.round(value)))]!;
  // A size, such as a knee, bears no sign.
  if (p.unit === 'dB')
    return `${p.min >= 0 ? value.toFixed(Math.max(1, digits(p))) : levelText(value, Math.max(1, digits(p)))} dB`;
  if (p.unit === 'Hz') {
    if (value >= 1000) return `${Number((value / 1000).toFixed(2))} kHz`;
    return `${Number(value.toFixed(digits(p)))} Hz`;
  }
  if (p.unit === 'ratio') return `${value.toFixed(digits(p))} : 1`;
  if (p.unit === 'ms' && value >= 1000) return `${Number((value / 1000).toFixed(2))} s`;
  const number = value.toFixed(digits(p)).replace('-', '−');
  if (p.unit === 'st' || p.unit === 'ct')
    return `${value > 0 ? '+' : ''}${number} ${p.unit === 'st' ? 'st' : 'cents'}`;
  if (p.unit === 'bit') return `${number} bits`;
  return p.unit ? `${number} ${p.unit}` : number;
}

/** A parameter's whole name, its group first where others share its own: `Bell 1 Gain`. */
export const parameterName = (p: Parameter, all: readonly Parameter[]): string =>
  p.group && all.some((x) => x !== p && x.name === p.name) ? `${p.group} ${p.name.toLowerCase()}` : p.name;

/** Reads a typed value in a parameter's unit: `250`, `2.5k`, `2,5 kHz`, `1 s`, `Peak`. @returns undefined where it is none */
export function readParameter(p: Parameter, text: string): number | undefined {
  const plain = text.trim().toLowerCase();
  const chosen = p.choices?.findIndex((c) => c.toLowerCase() === plain) ?? -1;
  if (chosen >= 0) return chosen;
  const t = plain.replace(/−/g, '-').replace(',', '.');
  const found = /^([+-]?\d*\.?\d+)\s*(k|khz|s|)?/.exec(t);
  if (!found) return undefined;
  const number = Number(found[1]);
  const factor = found[2] === 'k' || found[2] === 'khz' || (found[2] === 's' && p.unit === 'ms') ? 1000 : 1;
  const value = number * factor;
  return Number.isFinite(value) && value >= p.min && value <= p.max ? value : undefined;
}

/** What an insert is set to. */
interface Settings {
  readonly type: string;
  readonly params: Params;
}

/** What differs between two settings of a processor, a line for each: `threshold −24.0 dB, was −18.0 dB`. */
export function settingsChanged(before: Settings, after: Settings): readonly string[] {
  const { parameters } = processorOf(after.type);
  return parameters.flatMap((p) => {
    const was = valueOf(p, before.params);
    const now = valueOf(p, after.params);
    return was === now
      ? []
      : [
          `${parameterName(p, parameters).toLowerCase()} ${parameterText(p, now)}, was ${parameterText(p, was)}`,
        ];
  });
}
