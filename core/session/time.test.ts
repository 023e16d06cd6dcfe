import { describe, expect, it } from 'vitest';
import { barSeconds, barText, beatSeconds, clockText } from './time';

describe('musical time', () => {
  // A quarter lasts 60/bpm seconds (MIDI 1.0, Standard MIDI Files: tempo is microseconds per quarter note).
  it('counts quarter notes a minute', () => {
    expect(beatSeconds({ bpm: 120, beatsPerBar: 4, beatUnit: 4 })).toBe(0.5);
    expect(beatSeconds({ bpm: 96, beatsPerBar: 6, beatUnit: 8 })).toBe(0.3125);
    expect(barSeconds({ bpm: 96, beatsPerBar: 6, beatUnit: 8 })).toBe(1.875);
  });
  it.each([
    [0, '01:1:1'],
    [0.5, '01:2:1'],
    [1.999, '01:4:4'],
    [2, '02:1:1'],
    [2.125, '02:1:2'],
  ])('writes %s s as %s in 4/4 at 120', (seconds, text) =>
    expect(barText(seconds, { bpm: 120, beatsPerBar: 4, beatUnit: 4 })).toBe(text),
  );
  it('writes clock time', () => {
    expect(clockText(8.33)).toBe('0:08.33');
    expect(clockText(65.5)).toBe('1:05.50');
    expect(clockText(0)).toBe('0:00.00');
  });
});
