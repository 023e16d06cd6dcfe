import fc from 'fast-check';
import OSC from 'osc-js';
import { fromBuffer, toBuffer } from 'osc-min';
import { describe, expect, it } from 'vitest';
import { decodeOsc, encodeOsc, isBundle, MOST_NESTED, readOsc, type OscPacket } from './osc';

const address = fc
  .array(fc.stringMatching(/^[a-z0-9]{1,9}$/), { minLength: 1, maxLength: 4 })
  .map((parts) => `/${parts.join('/')}`);
const argument = fc.oneof(
  fc.float({ noNaN: true, noDefaultInfinity: true }).map((v) => (v === 0 ? 0 : v)),
  fc.boolean(),
  fc.stringMatching(/^[ -~]{0,12}$/),
);

describe('OSC 1.0 messages', () => {
  // "The Open Sound Control 1.0 Specification", examples: "/oscillator/4/frequency" with 440.0 as a float32.
  it('are the bytes of the specification’s example', () => {
    const bytes = encodeOsc({ address: '/oscillator/4/frequency', args: [440] });
    expect(Buffer.from(bytes).toString('hex')).toBe(
      '2f6f7363696c6c61746f722f342f6672657175656e6379002c66000043dc0000',
    );
  });
  it('are read by the osc-min package as they were meant, and what it writes is read here', () => {
    fc.assert(
      fc.property(address, fc.array(argument, { maxLength: 5 }), (path, args) => {
        const theirs = fromBuffer(Buffer.from(encodeOsc({ address: path, args }))) as {
          address: string;
          args: { value: unknown }[];
        };
        expect(theirs.address).toBe(path);
        expect(theirs.args.map((a) => a.value)).toEqual(args);
        const written = toBuffer({
          address: path,
          args: args.map((a) =>
            typeof a === 'number'
              ? { type: 'float' as const, value: a }
              : typeof a === 'string'
                ? { type: 'string' as const, value: a }
                : { type: a ? ('true' as const) : ('false' as const), value: a },
          ) as never,
        });
        expect(decodeOsc(new Uint8Array(written.buffer, written.byteOffset, written.byteLength))).toEqual({
          address: path,
          args,
        });
      }),
    );
  });
  it('that are cut off or are none are told from messages', () => {
    const whole = encodeOsc({ address: '/preamp/1/gain', args: [36, 'x', true] });
    for (let n = 0; n < whole.length; n++) {
      const cut = decodeOsc(whole.subarray(0, n));
      expect(cut === null || cut.args.length < 3).toBe(true);
    }
    expect(decodeOsc(new TextEncoder().encode('gain\0\0\0\0'))).toBeNull();
    expect(() => encodeOsc({ address: 'gain', args: [] })).toThrow(/no OSC address/);
  });
  it('agree with the osc-js package, which shares no code with osc-min, both ways', () => {
    fc.assert(
      fc.property(address, fc.array(argument, { maxLength: 5 }), (path, args) => {
        const theirs = new OSC.TypedMessage(path, []);
        for (const a of args)
          theirs.add(typeof a === 'number' ? 'f' : typeof a === 'string' ? 's' : a ? 'T' : 'F', a);
        expect(readOsc(theirs.pack())).toEqual({ address: path, args });
        const read = new OSC.Message('');
        read.unpack(new DataView(encodeOsc({ address: path, args }).slice().buffer));
        expect([read.address, read.args]).toEqual([path, args]);
      }),
    );
    const bundle = new OSC.Bundle([new OSC.Message('/strip/1/level', -6.5)], 500);
    expect(readOsc(bundle.pack())).toEqual({
      at: 500,
      elements: [{ address: '/strip/1/level', args: [-6.5] }],
    });
  });
  // The specification's second example: "/foo" with int32 1000, int32 -1, string "hello", float32 1.234 and 5.678.
  it('are read from the bytes of the specification’s example of many types', () => {
    const bytes = Buffer.from(
      '2f666f6f00000000' + '2c69697366660000' + '000003e8ffffffff' + '68656c6c6f000000' + '3f9df3b640b5b22d',
      'hex',
    );
    expect(readOsc(bytes)).toEqual({
      address: '/foo',
      args: [1000, -1, 'hello', Math.fround(1.234), Math.fround(5.678)],
    });
  });
  it('of other types are told as what they are', () => {
    const one = (tags: string, more = '') =>
      Buffer.concat([Buffer.from(`/a\0\0,${tags}\0\0`), Buffer.from(more, 'hex')]);
    expect(readOsc(one('N'))).toEqual({ address: '/a', args: [null] });
    expect(() => readOsc(one('b', '0000000401020304'))).toThrow(/type blob is not known/);
    expect(() => readOsc(one('I'))).toThrow(/type bang/);
    // A text that says `bang` is a text.
    expect(readOsc(encodeOsc({ address: '/a', args: ['bang'] }))).toEqual({ address: '/a', args: ['bang'] });
  });
});

describe('OSC 1.0 bundles', () => {
  const message = { address: '/strip/1/level', args: [-6] };
  // "OSC Bundle Encoding" and "OSC Time Tags": "#bundle", eight bytes of time, sizes before elements; sixty-three zeros and a one is at once.
  it('are the bytes that the specification tells', () => {
    const hex = Buffer.from(encodeOsc({ at: null, elements: [message] })).toString('hex');
    expect(hex).toBe(
      `2362756e646c6500${'00000000'}${'00000001'}00000018` + Buffer.from(encodeOsc(message)).toString('hex'),
    );
    // 1 January 1970 is 2,208,988,800 seconds after 1900 (RFC 5905, figure 4).
    const at = encodeOsc({ at: 500, elements: [] });
    expect(Buffer.from(at).toString('hex')).toBe('2362756e646c650083aa7e8080000000');
    expect(readOsc(at)).toEqual({ at: 500, elements: [] });
  });
  const packet: fc.Arbitrary<OscPacket> = fc.letrec<{ packet: OscPacket }>((tie) => ({
    packet: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      fc.record({ address, args: fc.array(argument, { maxLength: 4 }) }),
      fc.record({
        at: fc.constantFrom(null, 1_700_000_000_000),
        elements: fc.array(tie('packet'), { maxLength: 3 }),
      }),
    ),
  })).packet;
  const depth = (p: OscPacket): number => (isBundle(p) ? 1 + Math.max(0, ...p.elements.map(depth)) : 0);
  it('are read as they were meant, and nothing else can be read from a part of them', () => {
    fc.assert(
      fc.property(
        packet.filter((p) => depth(p) <= MOST_NESTED),
        (p) => {
          const bytes = encodeOsc(p);
          expect(readOsc(bytes)).toEqual(p);
          // Never an error of another kind, never more elements than are whole.
          for (let n = 0; n < bytes.length; n += 4)
            try {
              readOsc(bytes.subarray(0, n));
            } catch (error) {
              expect(error).toBeInstanceOf(RangeError);
            }
        },
      ),
    );
  });
  it('that lie about sizes, are cut, or are nested too deep are refused whole', () => {
    const bytes = encodeOsc({ at: null, elements: [message, message] });
    const lying = (size: number) => {
      const copy = bytes.slice();
      new DataView(copy.buffer).setInt32(16, size);
      return copy;
    };
    for (const size of [-4, 0, 5, 1000, 2 ** 31 - 1]) expect(() => readOsc(lying(size))).toThrow(RangeError);
    expect(() => readOsc(bytes.subarray(0, bytes.length - 4))).toThrow(/longer than the packet/);
    expect(() => readOsc(bytes.subarray(0, 12))).toThrow(/time tag/);
    const nested = (n: number): OscPacket => (n === 0 ? message : { at: null, elements: [nested(n - 1)] });
    expect(readOsc(encodeOsc(nested(MOST_NESTED)))).toEqual(nested(MOST_NESTED));
    expect(() => readOsc(encodeOsc(nested(MOST_NESTED + 1)))).toThrow(/8 deep/);
    // As deep as a datagram can hold: what reads it needs no more than it is allowed.
    let deep: Uint8Array<ArrayBuffer> = encodeOsc(message);
    while (deep.length < 65_000) {
      const next = new Uint8Array(deep.length + 20);
      next.set(encodeOsc({ at: null, elements: [] }));
      new DataView(next.buffer).setInt32(16, deep.length);
      next.set(deep, 20);
      deep = next;
    }
    expect(() => readOsc(deep)).toThrow(/8 deep/);
  });
  it('or messages of any bytes are read, or refused, and nothing else', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
        try {
          readOsc(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(RangeError);
        }
      }),
      { numRuns: 2000 },
    );
  });
});
