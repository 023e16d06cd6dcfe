// What the engine's own files share with the rest of the core, as AssemblyScript: written at each build of the engine, so that
// no number and no name stands twice.
import type { Processor } from '../processors/description';
import { engineCodeOf, processors } from '../processors/registry';
import { newSession } from '../session/defaults';
import { inOneRow, placesOf } from './engineParams';
import {
  BLOCK,
  BLOCK_BYTES,
  HEADER,
  LANE_WORDS,
  LANES_WORDS,
  METER_FLOATS,
  OP,
  OP_WORDS,
  RING_HEADER_BYTES,
} from './layout';

const capitals = (name: string) => name.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase();
const constant = (name: string, type: string, value: number) => `export const ${name}: ${type} = ${value};`;
const page = (about: string, lines: readonly string[]) =>
  `// Made at each build: ${about}\n${lines.join('\n')}\n`;

/** Offsets of the header's words as `H_…`, in bytes, and codes of operations as `OP_…`. */
const layoutPage = () =>
  page('core/plan/layout.ts says what each number means.', [
    constant('BLOCK', 'i32', BLOCK),
    constant('BLOCK_BYTES', 'usize', BLOCK_BYTES),
    constant('METER_BYTES', 'usize', METER_FLOATS * 4),
    constant('RING_HEADER_BYTES', 'usize', RING_HEADER_BYTES),
    constant('LANE_BYTES', 'usize', LANE_WORDS * 4),
    constant('LANES_FIRST', 'usize', LANES_WORDS * 4),
    constant('LANES_BYTES', 'usize', OP_WORDS.lanes * 4),
    ...Object.entries(HEADER).map(([name, word]) => constant(`H_${capitals(name)}`, 'usize', word * 4)),
    ...Object.entries(OP).map(([name, code]) => constant(`OP_${capitals(name)}`, 'i32', code)),
  ]);

/** Where each of a processor's parameters stands, in bytes from its first. */
function parametersPage(processor: Processor): string {
  const params = processor.engineParams({}, newSession(''));
  return page(
    `where the parameters of \`${processor.type}\` stand, in bytes.`,
    [...placesOf(params)].map(([name, at]) => constant(name, 'usize', at)),
  );
}

/** Which of the engine's functions does a processor's work. */
function dispatchPage(): string {
  const all = processors.map((p) => ({ ...p, code: engineCodeOf(p) }));
  const packed = all.filter((p) => p.packed);
  const choose = (list: readonly { code: number; type: string }[], call: (type: string) => string) =>
    list.map(({ code, type }) => `    case ${code}: ${call(type)}`);
  const anyOf = (list: readonly { code: number }[]) =>
    list.map(({ code }) => `code == ${code}`).join(' || ') || 'false';
  return page(
    'the processors of core/processors/registry.ts and their files in engine/assembly/processors.',
    [
      ...all.map(({ type }) => `import * as ${type} from '../../engine/assembly/processors/${type}';`),
      '',
      "/** Bytes of a processor's state, a channel of a packed one. */",
      'export function bytesOf(code: i32, sampleRate: i32): i32 {',
      '  switch (code) {',
      ...choose(all, (type) => `return ${type}.bytes(sampleRate);`),
      '    default: return 0;',
      '  }',
      '}',
      '/** Parameters that a processor has. */',
      'export function paramsOf(code: i32): i32 {',
      '  switch (code) {',
      ...all.map((p) => `    case ${p.code}: return ${inOneRow(p.engineParams({}, newSession(''))).length};`),
      '    default: return 0;',
      '  }',
      '}',
      '/** The fewest frames that it computes at once. */',
      'export function finestOf(code: i32): i32 {',
      '  switch (code) {',
      ...choose(all, (type) => `return ${type}.FINEST;`),
      '    default: return 1;',
      '  }',
      '}',
      '/** Whether a processor listens to its key, or to its own signal in place of one. */',
      `export function hearsKey(code: i32): bool {\n  return ${anyOf(packed.filter((p) => p.takesKey))};\n}`,
      '/** Whether a processor is given its signal as late as its latency, and its key on time. */',
      `export function looksAhead(code: i32): bool {\n  return ${anyOf(packed.filter((p) => p.looksAhead))};\n}`,
      '/** Whether the lanes that were addressed can be computed as a row. */',
      'export function fitsRow(code: i32): bool {',
      '  switch (code) {',
      ...choose(
        packed.filter((p) => p.rows),
        (type) => `return ${type}.fitsRow();`,
      ),
      '    default: return false;',
      '  }',
      '}',
      '/** Runs a packed processor over the lanes. @returns whether there is such a one */',
      'export function processLanes(code: i32, row: bool): bool {',
      '  switch (code) {',
      ...packed.map(({ code, type, rows }) =>
        rows
          ? `    case ${code}: if (row) ${type}.row(); else ${type}.process(); return true;`
          : `    case ${code}: ${type}.process(); return true;`,
      ),
      '    default: return false;',
      '  }',
      '}',
      "/** Runs a processor that has its strip's channels to itself. @returns whether there is such a one */",
      'export function processOne(',
      '  code: i32, buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,',
      '): bool {',
      '  switch (code) {',
      ...choose(
        all.filter((p) => !p.packed),
        (type) =>
          `${type}.process(buffer, channels, targets, previous, current, state, sampleRate); return true;`,
      ),
      '    default: return false;',
      '  }',
      '}',
    ],
  );
}

/** The files to write, by their paths within the folder of what is made. */
export const engineSource = (): ReadonlyMap<string, string> =>
  new Map([
    ['layout.ts', layoutPage()],
    ['processors.ts', dispatchPage()],
    ...processors.map((p): [string, string] => [`parameters/${p.type}.ts`, parametersPage(p)]),
  ]);
