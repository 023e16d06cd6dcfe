import { describe, expect, it } from 'vitest';
import { apply } from '@core/edits/apply';
import { newSession } from '@core/session/defaults';
import { monitor, newOutput } from '@core/operations/outputs';
import { playedOutputs } from './channels';

const two = apply(newSession('Outputs'), newOutput(newSession('Outputs')).commands).session;
const three = apply(two, newOutput(two).commands).session;
const played = (s: typeof two, channels: number) =>
  playedOutputs(s, channels).map((o) => `${o.strip} ${o.channel}`);

describe('outputs on a device', () => {
  it('of two channels: the monitored one alone', () => {
    expect(played(three, 2)).toEqual(['main 0']);
    expect(played(apply(three, monitor(three, 'cue')).session, 2)).toEqual(['cue 0']);
  });
  it('of more: each on its own pair, as far as the device reaches', () => {
    expect(played(three, 4)).toEqual(['main 0', 'cue 2']);
    expect(played(three, 6)).toEqual(['main 0', 'cue 2', 'cue-2 4']);
    expect(played(three, 5)).toEqual(['main 0', 'cue 2']);
  });
  it('give the first pair to what is monitored', () =>
    expect(played(apply(three, monitor(three, 'cue-2')).session, 8)).toEqual(['cue-2 0', 'cue 2']));
});
