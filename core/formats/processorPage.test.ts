import { existsSync, readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { processors } from '../processors/registry';
import { parameterText, readParameter } from '../processors/text';
import { processorCurve, processorPage } from './processorPage';

const docs = (name: string) => new URL(`../../docs/processors/${name}`, import.meta.url);

describe.each(processors.map((p) => [p.type, p] as const))('the page of %s', (type, p) => {
  it('in docs/ is the one that its description gives', () => {
    expect(readFileSync(docs(`${type}.md`), 'utf8')).toBe(processorPage(p));
    const curve = processorCurve(p);
    expect(existsSync(docs(`${type}.svg`))).toBe(curve !== null);
    if (curve) expect(readFileSync(docs(`${type}.svg`), 'utf8')).toBe(curve);
  });
  it('names every parameter with its range', () => {
    for (const x of p.parameters) expect(processorPage(p)).toContain(`\`${x.id}\``);
  });
});

describe('a parameter in words', () => {
  it('is read as it is written, for every parameter at both ends and at its default', () => {
    for (const p of processors)
      for (const x of p.parameters)
        for (const value of [x.min, x.max, x.default]) {
          const read = readParameter(x, parameterText(x, value));
          expect(read, `${p.type} ${x.id} ${parameterText(x, value)}`).toBeDefined();
          expect(Math.abs(read! - value)).toBeLessThanOrEqual(Math.max(x.step, value * 0.005));
        }
  });
  it.each([
    ['frequency', '2.5k', 2500],
    ['frequency', '2,5 kHz', 2500],
    ['frequency', '6000', 6000],
    ['frequency', 'loud', undefined],
    ['frequency', '99 kHz', undefined],
    ['mode', 'everything', 1],
  ])('%s typed as “%s” is %s', (id, text, wanted) => {
    const p = processors.find((x) => x.type === 'deEsser')!.parameters.find((x) => x.id === id)!;
    expect(readParameter(p, text)).toBe(wanted);
  });
});
