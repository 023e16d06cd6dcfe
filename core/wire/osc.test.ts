import fc from 'fast-check';
import { fromBuffer, toBuffer } from 'osc-min';
import { describe, expect, it } from 'vitest';
import { decodeOsc, encodeOsc } from './osc';

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
});
