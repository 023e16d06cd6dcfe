import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { WaveFile } from 'wavefile';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { startServer, type TestServer } from '../server/testing/testServer';
import { toneFile } from '../server/testing/wav';

const zonula = fileURLToPath(new URL('./zonula', import.meta.url));
let folder: string;
let pack: string;
let server: TestServer;

const run = (args: string[], env: Record<string, string> = {}) =>
  new Promise<{ code: number; out: string; err: string }>((done) =>
    execFile(zonula, args, { env: { ...process.env, ...env } }, (error, out, err) =>
      done({ code: error ? Number(error.code) : 0, out, err }),
    ),
  );
const base = newSession('Command line');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'tone',
      kind: 'source',
      name: 'Tone',
      stem: 'stems/tone.wav',
      pan: -1,
      faderDb: -6,
      out: { to: 'bus', on: true },
    }),
    newStrip({
      id: 'slow',
      kind: 'source',
      name: 'Slow',
      stem: 'stems/slow.wav',
      pan: 1,
      out: { to: 'bus', on: true },
    }),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'zonula-cli-'));
  pack = join(folder, 'pack');
  await mkdir(join(pack, 'stems'), { recursive: true });
  await writeFile(join(pack, 'session.json'), JSON.stringify(session));
  await writeFile(join(pack, 'stems/tone.wav'), toneFile(9600));
  await writeFile(join(pack, 'stems/slow.wav'), toneFile(22050, 1, 44100));
  server = await startServer();
});
afterAll(async () => {
  await server.close();
  await rm(folder, { recursive: true, force: true });
});

describe('zonula help', () => {
  it('lists every command, tells what one takes, and gives the version', async () => {
    const { code, out } = await run(['help']);
    expect(code).toBe(0);
    const names = [
      'start',
      'print',
      'trace',
      'load',
      'check',
      'export',
      'import',
      'backup',
      'restore',
      'doctor',
    ];
    for (const name of names) expect(out).toMatch(new RegExp(`^  ${name} `, 'm'));
    expect(await run(['--help'])).toEqual({ code: 0, out, err: '' });
    const print = await run(['help', 'print']);
    expect(print.code).toBe(0);
    for (const part of ['<session>', '--out <dir>', '--what', '--seconds']) expect(print.out).toContain(part);
    expect(await run(['print', '--help'])).toEqual(print);
    const { version } = JSON.parse(await readFile(join(zonula, '../../package.json'), 'utf8')) as {
      version: string;
    };
    expect(await run(['--version'])).toEqual({ code: 0, out: `${version}\n`, err: '' });
  });
});

describe('zonula print', () => {
  it('writes a 32-bit float WAV a strip, and a JSON line a file', async () => {
    const out = join(folder, 'out');
    const { code, out: lines } = await run(['print', pack, '--out', out, '--what', 'strips']);
    expect(code).toBe(0);
    const said = lines
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { strip: string; frames: number; channels: number });
    expect(said.map((l) => l.strip)).toEqual(['tone', 'slow', 'bus', 'main']);
    expect((await readdir(out)).sort()).toEqual(['bus.wav', 'main.wav', 'slow.wav', 'tone.wav']);
    // To the end of the longest stem: 22050 frames at 44.1 kHz are 24000 at 48 kHz.
    for (const l of said) expect(l.frames).toBe(24000);
    const wav = new WaveFile(await readFile(join(out, 'main.wav')));
    expect(wav.bitDepth).toBe('32f');
    const [left, right] = wav.getSamples(false, Float32Array) as unknown as [Float32Array, Float32Array];
    expect(left.length).toBe(24000);
    const rms = (x: Float32Array) => Math.sqrt(x.slice(1000, 9000).reduce((s, v) => s + v * v, 0) / 8000);
    // A sine of 0.5 has an RMS of 0.3536; the left one stands at -6 dB.
    expect(20 * Math.log10(rms(left) / 0.35355)).toBeCloseTo(-6, 1);
    expect(20 * Math.log10(rms(right) / 0.35355)).toBeCloseTo(0, 1);
  });
  it('prints as long as it is told', async () => {
    const { out } = await run(['print', pack, '--out', join(folder, 'short'), '--seconds', '0.1']);
    expect(JSON.parse(out)).toMatchObject({ strip: 'main', frames: 4800 });
  });
  it.each<[string[], number, RegExp]>([
    [[], 2, /Say what to do/],
    [['dance'], 2, /unknown command 'dance'/],
    [['prnt'], 2, /Did you mean print/],
    [['print', '--out', 'y'], 2, /missing required argument 'session'/],
    [['print'], 2, /'--out <dir>' not specified[^]*zonula help print/],
    [['print', 'x', 'z', '--out', 'y'], 2, /too many arguments/],
    [['print', 'x'], 2, /--out/],
    [['print', 'x', '--out', 'y', '--what', 'all'], 2, /--what/],
    [['print', 'x', '--out', 'y', '--seconds', 'long'], 2, /--seconds/],
    [['print', 'x', '--out', 'y', '--loud', '1'], 2, /loud/],
    [['print', '/no/such/package', '--out', 'y'], 1, /no package at \/no\/such\/package/],
  ])('%j ends with code %s', async (args, expected, text) => {
    const { code, err, out } = await run(args);
    expect(code).toBe(expected);
    expect(err).toMatch(text);
    expect(out).toBe('');
  });
  it('prints a session of the running application by its name or id, to the sample as its package', async () => {
    const env = { DATABASE_URL: server.url };
    const own = join(folder, 'own');
    await mkdir(join(own, 'stems'), { recursive: true });
    await writeFile(join(own, 'session.json'), JSON.stringify({ ...session, name: 'By name' }));
    for (const stem of ['tone', 'slow'])
      await writeFile(join(own, `stems/${stem}.wav`), await readFile(join(pack, `stems/${stem}.wav`)));
    const brought = JSON.parse((await run(['import', own], env)).out) as { session: string; name: string };
    await run(['print', own, '--out', join(folder, 'of-package'), '--what', 'strips']);
    for (const [k, name] of [brought.session, brought.name].entries()) {
      const to = join(folder, `of-session-${k}`);
      const { code, err } = await run(['print', name, '--out', to, '--what', 'strips'], env);
      expect([code, err]).toEqual([0, '']);
      for (const file of ['tone', 'slow', 'bus', 'main']) {
        const [a, b] = await Promise.all(
          ['of-package', `of-session-${k}`].map((from) => readFile(join(folder, from, `${file}.wav`))),
        );
        expect(Buffer.compare(a!, b!), file).toBe(0);
      }
    }
    expect(await run(['print', 'Nowhere', '--out', join(folder, 'nowhere')], env)).toMatchObject({
      code: 1,
      err: expect.stringMatching(/no session `Nowhere`/),
    });
    const away = { DATABASE_URL: '', ZONULA_DATA: join(folder, 'not-running') };
    expect((await run(['print', 'Nowhere', '--out', join(folder, 'nowhere')], away)).err).toMatch(
      /not running: start it with/,
    );
  });
  it('names the stem that is broken, and leaves no half file', async () => {
    const bad = join(folder, 'bad');
    await mkdir(join(bad, 'stems'), { recursive: true });
    await writeFile(join(bad, 'session.json'), JSON.stringify(session));
    await writeFile(join(bad, 'stems/tone.wav'), toneFile(9600).slice(0, 5000));
    await writeFile(join(bad, 'stems/slow.wav'), toneFile(100));
    const { code, err } = await run(['print', bad, '--out', join(folder, 'none')]);
    expect(code).toBe(1);
    expect(err).toMatch(/stems\/tone\.wav.*cut off/);
    await expect(readdir(join(folder, 'none'))).rejects.toThrow();
  });
});

describe('zonula load', () => {
  it('measures every insert and the whole, and changes nothing', async () => {
    const folderOf = join(folder, 'loaded');
    await mkdir(folderOf, { recursive: true });
    const inserts = [newInsert({ id: 'e', type: 'equalizer' }), newInsert({ id: 'r', type: 'reverb' })];
    const text = JSON.stringify({
      ...base,
      strips: [
        newStrip({ id: 'hall', kind: 'return', name: 'Hall', inserts, out: { to: 'main', on: true } }),
        ...base.strips,
      ],
    });
    await writeFile(join(folderOf, 'session.json'), text);
    const { code, out } = await run(['load', folderOf]);
    expect(code).toBe(0);
    const lines = out
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as Record<string, unknown>);
    expect(lines).toHaveLength(3);
    expect(new Set(lines.slice(0, 2).map((l) => l.processor))).toEqual(new Set(['equalizer', 'reverb']));
    const shares = lines.map((l) => l.percentOfRealTime as number);
    for (const share of shares) expect(share).toBeGreaterThan(0);
    // The dearest first, the whole last.
    expect(shares[0]).toBeGreaterThanOrEqual(shares[1]!);
    expect(lines[2]).toMatchObject({ session: 'Command line' });
    expect(await readFile(join(folderOf, 'session.json'), 'utf8')).toBe(text);
  });
});

describe('zonula trace', () => {
  it('gives paths with stage gains in decibels, and the total left and right', async () => {
    const { code, out } = await run(['trace', pack, '--from', 'tone', '--to', 'main']);
    expect(code).toBe(0);
    const found = JSON.parse(out);
    expect(found).toMatchObject({ sampleRate: 48000, from: 'tone', to: 'main', count: 1, rightDb: null });
    // Panned hard left under the -3 law the left side gets all of it.
    expect(found.leftDb).toBeCloseTo(-6, 9);
    expect(found.paths[0].strips).toEqual(['tone', 'bus', 'main']);
    expect(found.paths[0].stages.map((g: { kind: string }) => g.kind)).toEqual([
      'fader',
      'out',
      'fader',
      'out',
      'fader',
    ]);
    // What the print of the same package gives is what the trace says.
    await run(['print', pack, '--out', join(folder, 'traced'), '--what', 'strips']);
    const level = async (file: string) => {
      const wav = new WaveFile(await readFile(join(folder, 'traced', `${file}.wav`)));
      const [left] = wav.getSamples(false, Float32Array) as unknown as [Float32Array];
      return Math.sqrt(left.slice(1000, 9000).reduce((s, v) => s + v * v, 0) / 8000);
    };
    expect(20 * Math.log10((await level('main')) / 0.35355)).toBeCloseTo(found.leftDb, 1);
  });
  it('tells automated levels as they are at a time', async () => {
    const moving = join(folder, 'moving');
    await mkdir(join(moving, 'stems'), { recursive: true });
    for (const stem of ['tone', 'slow'])
      await writeFile(join(moving, `stems/${stem}.wav`), await readFile(join(pack, `stems/${stem}.wav`)));
    const fader = [
      [0, -12],
      [1, 0],
    ] as const;
    const strips = session.strips.map((s) => (s.id === 'bus' ? { ...s, lanes: { fader } } : s));
    await writeFile(join(moving, 'session.json'), JSON.stringify({ ...session, strips }));
    const leftAt = async (at: string[]) =>
      JSON.parse((await run(['trace', moving, '--from', 'tone', '--to', 'main', ...at])).out)
        .leftDb as number;
    expect(await leftAt([])).toBeCloseTo(-6 - 12, 9);
    expect(await leftAt(['--at', '0.5'])).toBeCloseTo(-6 - 6, 9);
    expect(await leftAt(['--at', '7'])).toBeCloseTo(-6, 9);
  });
  it.each<[string[], number, RegExp]>([
    [['--from', 'tone'], 2, /required option '--to <strip>' not specified[^]*zonula help trace/],
    [['--from', 'ghost', '--to', 'main'], 1, /no strip `ghost`/],
    [['--from', 'tone', '--to', 'main', '--at', 'noon'], 2, /--at is a time in seconds/],
  ])('%j ends with code %s', async (args, expected, text) => {
    const { code, err } = await run(['trace', pack, ...args]);
    expect([code, err]).toEqual([expected, expect.stringMatching(text)]);
  });
});

describe('zonula check', () => {
  const write = async (name: string, change: (s: Session) => Session) => {
    const at = join(folder, name);
    await mkdir(join(at, 'stems'), { recursive: true });
    await writeFile(join(at, 'session.json'), JSON.stringify(change(session)));
    await writeFile(join(at, 'stems/tone.wav'), toneFile(9600));
    await writeFile(join(at, 'stems/slow.wav'), toneFile(9600));
    return at;
  };
  const lines = (out: string) =>
    out
      .trim()
      .split('\n')
      .filter(Boolean)
      .map(
        (l) => JSON.parse(l) as { rule: string; sure: string; key: string; where: string[]; what: string },
      );
  const louder = (s: Session): Session => ({
    ...s,
    strips: s.strips.map((t) =>
      t.id === 'bus' ? { ...t, faderDb: 12 } : t.id === 'slow' ? { ...t, solo: true } : t,
    ),
  });

  it('says nothing and ends with 0 where nothing is wrong', async () =>
    expect(await run(['check', pack])).toMatchObject({ code: 0, out: '' }));
  it('gives a JSON line a finding and ends with 3; clipping is measured', async () => {
    const at = await write('wrong', louder);
    const { code, out } = await run(['check', at]);
    expect(code).toBe(3);
    expect(lines(out).map((l) => [l.rule, l.sure])).toEqual([
      ['clipping', 'measured'],
      ['solo-left', 'certain'],
    ]);
    // 0.5 at +12 dB is 1.99: 6.0 dB above full scale, first on the bus.
    expect(lines(out)[0]!.what).toContain('6.0 dB above full scale; Bus is the first');
    expect(lines((await run(['check', at, '--audio', 'no'])).out).map((l) => l.rule)).toEqual(['solo-left']);
  });
  it('leaves out what was dismissed', async () => {
    const at = await write('let', (s) => ({ ...louder(s), dismissed: ['solo-left', 'clipping main'] }));
    expect(await run(['check', at])).toMatchObject({ code: 0, out: '' });
  });
  it('tells a loop by its names, though such a session cannot be opened', async () => {
    const at = await write('loop', (s) => ({
      ...s,
      strips: [
        ...s.strips.filter((t) => t.id !== 'bus'),
        newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'other', on: true } }),
        newStrip({ id: 'other', kind: 'submix', name: 'Other', out: { to: 'bus', on: true } }),
      ],
    }));
    const { code, out } = await run(['check', at]);
    expect(code).toBe(3);
    expect(lines(out)).toMatchObject([{ rule: 'loop', where: ['bus', 'other'] }]);
    expect(lines(out)[0]!.what).toContain('bus → other → bus');
  });
  it('ends as ever when nobody reads on, and writes all of it to one who reads slowly', async () => {
    // Many strips without an output: more lines than a pipe holds at once.
    const many = join(folder, 'many');
    const lost = Array.from({ length: 900 }, (_, k) =>
      newStrip({ id: `l${k}`, kind: 'source', name: `Lost ${k}`, out: { to: null, on: true } }),
    );
    await mkdir(many);
    await writeFile(
      join(many, 'session.json'),
      JSON.stringify({ ...base, strips: [...lost, ...base.strips] }),
    );
    const shell = (line: string) =>
      new Promise<string>((done) => execFile('bash', ['-c', line], (_error, out, err) => done(out + err)));
    const all = await run(['check', many]);
    const lines = all.out.trimEnd().split('\n');
    expect(all.code).toBe(3);
    expect(all.out.length).toBeGreaterThan(2 ** 16);
    expect(await shell(`set -o pipefail; ${zonula} check ${many} | head -1; echo $?`)).toBe(
      `${lines[0]}\n3\n`,
    );
    expect(await shell(`${zonula} check ${many} | (sleep 0.5; cat)`)).toBe(all.out);
  });
  it('ends with 1 for what is no package, and with 2 for an answer that it does not know', async () => {
    expect((await run(['check', '/no/such'])).code).toBe(1);
    expect((await run(['check', pack, '--audio', 'loud'])).code).toBe(2);
  });
});

describe('zonula import and export', () => {
  it('bring a package into the database and out again, and it prints the same samples', async () => {
    const env = { DATABASE_URL: server.url };
    const brought = await run(['import', pack], env);
    expect(brought.code).toBe(0);
    const { session: id } = JSON.parse(brought.out) as { session: string };
    const file = join(folder, 'again.zonula');
    expect((await run(['export', id, '--out', file], env)).code).toBe(0);
    await run(['print', pack, '--out', join(folder, 'a')]);
    expect((await run(['print', file, '--out', join(folder, 'b')])).code).toBe(0);
    expect(
      (await readFile(join(folder, 'a/main.wav'))).equals(await readFile(join(folder, 'b/main.wav'))),
    ).toBe(true);
    // By name as well; and what is not there is said.
    expect((await run(['export', 'Command line', '--out', join(folder, 'named.zonula')], env)).code).toBe(0);
    const ghost = await run(['export', 'Ghost', '--out', join(folder, 'ghost.zonula')], env);
    expect([ghost.code, ghost.err]).toEqual([1, expect.stringContaining('no session `Ghost`')]);
  });
  it('say what to do when nothing runs', async () => {
    const away = await run(['import', pack], { DATABASE_URL: 'postgres://zonula:x@127.0.0.1:1/zonula' });
    expect([away.code, away.err]).toEqual([1, expect.stringContaining('npm start')]);
  });
});

describe('zonula backup, restore and doctor', () => {
  it('write everything into one file, look through it, and put it back only when that is meant', async () => {
    const env = { DATABASE_URL: server.url };
    const { session: id } = JSON.parse((await run(['import', pack], env)).out) as { session: string };
    const file = join(folder, 'all.backup');
    const written = await run(['backup', file], env);
    expect([written.code, JSON.parse(written.out)]).toEqual([
      0,
      { backup: file, bytes: (await readFile(file)).length },
    ]);
    expect(await run(['doctor'], env)).toMatchObject({ code: 0, out: '' });
    const { body } = await server.ask('GET', `/sessions/${id}`);
    await server.ask('DELETE', `/sessions/${id}`);
    const asked = await run(['restore', file], env);
    if ((await server.ask('GET', '/sessions')).body.sessions.length)
      expect([asked.code, asked.err]).toEqual([1, expect.stringContaining('--replace yes')]);
    const restored = await run(['restore', file, '--replace', 'yes'], env);
    expect([restored.code, restored.err]).toEqual([0, '']);
    expect((await server.ask('GET', `/sessions/${id}`)).body).toEqual(body);
    await server.sequelize.query('DELETE FROM stem_chunks');
    const sick = await run(['doctor'], env);
    expect(sick.code).toBe(3);
    expect(JSON.parse(sick.out.split('\n')[0]!)).toMatchObject({
      problem: 'stem',
      repair: expect.stringContaining('doctor --repair yes'),
    });
    expect((await run(['doctor', '--repair', 'yes'], env)).code).toBe(3);
    expect((await run(['import', pack], env)).code).toBe(0);
    expect(await run(['doctor'], env)).toMatchObject({ code: 0, out: '' });
  });
  it('say what is wrong with a file', async () => {
    const env = { DATABASE_URL: server.url };
    const ghost = await run(['restore', join(folder, 'ghost'), '--replace', 'yes'], env);
    expect([ghost.code, ghost.err]).toEqual([1, expect.stringContaining('There is no file')]);
    const none = await run(['restore', join(pack, 'session.json'), '--replace', 'yes'], env);
    expect([none.code, none.err]).toEqual([1, expect.stringContaining('is no backup of Zonula')]);
    const away = await run(['backup', join(folder, 'x')], {
      DATABASE_URL: 'postgres://zonula:x@127.0.0.1:1/zonula',
    });
    expect([away.code, away.err]).toEqual([1, expect.stringMatching(/connection|refused/)]);
    expect((await run(['doctor', '--repair', 'maybe'], env)).code).toBe(2);
  });
});
