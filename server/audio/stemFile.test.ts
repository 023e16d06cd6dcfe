import { randomBytes } from 'node:crypto';
import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { wavHeader } from '../../core/formats/audio/wav';

let server: TestServer;
let stem: string;
/** Three bytes a frame, an odd number of them: the file has one byte more. */
const FRAMES = 700_001;
const file = Buffer.concat([wavHeader('s24', 1, 48000, FRAMES), randomBytes(FRAMES * 3), Buffer.alloc(1)]);
beforeAll(async () => {
  server = await startServer();
  const { body } = await server.ask('POST', '/stems?name=a.wav&rate=48000', file);
  stem = body.stem;
});
afterAll(() => server.close());

const url = (of = stem) => `${server.base}/api/stems/${of}/file`;
const get = async (headers: Record<string, string> = {}, method = 'GET') => {
  const answer = await fetch(url(), { method, headers });
  return {
    status: answer.status,
    header: (name: string) => answer.headers.get(name),
    bytes: Buffer.from(await answer.arrayBuffer()),
  };
};
const size = file.length;

// RFC 9110, 14: range requests; 13: conditional requests; 8.8.3 and 13.1.5: entity tags, and If-Range.
describe('a stem as a file', () => {
  it('is the file that came in, bit by bit, whole', async () => {
    const all = await get();
    expect(all.status).toBe(200);
    expect(all.bytes.equals(file)).toBe(true);
    expect([all.header('Accept-Ranges'), all.header('Content-Length')]).toEqual(['bytes', String(size)]);
    expect(all.header('Content-Type')).toBe('audio/wav');
    const head = await get({ Range: 'bytes=0-9' }, 'HEAD');
    // 14.2: of methods but GET the range is not looked at.
    expect([head.status, head.header('Content-Length'), head.bytes.length]).toEqual([200, String(size), 0]);
  });
  it.each([
    ['bytes=0-0', 0, 1],
    ['bytes=0-43', 0, 44],
    ['bytes=40-50', 40, 51],
    ['bytes=44-46', 44, 47],
    ['bytes=45-100', 45, 101],
    [`bytes=1000001-1500000`, 1_000_001, 1_500_001],
    ['bytes=-1', -1, undefined],
    ['bytes=-500', -500, undefined],
    ['bytes=2000000-', 2_000_000, undefined],
    [`bytes=${FRAMES * 3 + 40}-99999999`, FRAMES * 3 + 40, undefined],
    ['bytes=-99999999', 0, undefined],
    // Parts that meet are one.
    ['bytes=0-99,100-199', 0, 200],
  ])('gives %s of it', async (range, from, to) => {
    const part = await get({ Range: range });
    const wanted = file.subarray(from, to);
    expect(part.status).toBe(206);
    expect(part.bytes.equals(wanted)).toBe(true);
    const first = from < 0 ? size + from : from;
    expect(part.header('Content-Range')).toBe(`bytes ${first}-${first + wanted.length - 1}/${size}`);
    expect(part.header('Content-Length')).toBe(String(wanted.length));
  });
  it.each([`bytes=${size}-`, 'bytes=99999999-100000000', 'bytes=-0'])(
    'says that %s is not there',
    async (range) => {
      const none = await get({ Range: range });
      expect([none.status, none.header('Content-Range'), none.bytes.length]).toEqual([
        416,
        `bytes */${size}`,
        0,
      ]);
    },
  );
  it.each(['bytes=5-4', 'bytes=a-b', 'bytes', 'bytes=', 'rows=0-5', 'bytes=0-1,500-600'])(
    'gives all where %s is no range, or several',
    async (range) => {
      const all = await get({ Range: range });
      expect([200, 416]).toContain(all.status);
      if (all.status === 200) expect(all.bytes.equals(file)).toBe(true);
    },
  );
  it('is told by its entity tag what is there already', async () => {
    const tag = (await get({}, 'HEAD')).header('ETag')!;
    expect(tag).toMatch(/^"[0-9a-f]{64}\.wav"$/);
    expect(await get({ 'If-None-Match': tag })).toMatchObject({ status: 304, bytes: Buffer.alloc(0) });
    // 13.2.2: what is there already is told before the range is looked at.
    expect((await get({ 'If-None-Match': `"x", ${tag}`, Range: 'bytes=0-1' })).status).toBe(304);
    expect((await get({ 'If-None-Match': '"x"', Range: 'bytes=0-1' })).status).toBe(206);
    expect((await get({ 'If-Range': tag, Range: 'bytes=0-1' })).status).toBe(206);
    for (const other of ['"x"', `W/${tag}`, 'Sun, 29 Nov 2026 12:00:00 GMT']) {
      const all = await get({ 'If-Range': other, Range: 'bytes=0-1' });
      expect([all.status, all.bytes.length]).toEqual([200, size]);
    }
    expect((await get({ 'If-Match': tag })).status).toBe(200);
    expect((await get({ 'If-Match': '*' })).status).toBe(200);
    expect((await get({ 'If-Match': '"x"' })).status).toBe(412);
  });
  it('put together from parts of any size is the file', async () => {
    const parts: Buffer[] = [];
    for (let at = 0, n = 1; at < size; at += n, n = Math.min(1_100_000, n * 3 + 1))
      parts.push((await get({ Range: `bytes=${at}-${at + n - 1}` })).bytes);
    expect(Buffer.concat(parts).equals(file)).toBe(true);
  });
  it('bears the name that is asked for, and no other header', async () => {
    const answer = await fetch(`${url()}?name=${encodeURIComponent('Frame drum "näh"\r\nX: y')}`, {
      method: 'HEAD',
    });
    expect(answer.headers.get('Content-Disposition')).toMatch(/^attachment; filename=/);
    expect(answer.headers.get('X')).toBeNull();
  });
  it('whoever hangs up in the middle holds nothing, and the next is answered', async () => {
    for (let n = 0; n < 20; n++)
      await new Promise<void>((done) => {
        const asked = request(url(), (answer) => answer.once('data', () => (asked.destroy(), done())));
        asked.end();
      });
    expect((await get({ Range: 'bytes=0-3' })).bytes.toString('latin1')).toBe('RIFF');
  });
  it('that is not there is told as such', async () => {
    const { status, body } = await server.ask('GET', `/stems/sha256:${'0'.repeat(64)}/file`);
    expect([status, body.error.code]).toEqual([404, 'unknown']);
    expect(await StemRow.count()).toBeGreaterThan(0);
  });
});
