import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import simulatedProfile from '@core/surface/profiles/simulatedDesk.json';
import { validProfile } from '@core/surface/profile';
import { useSession } from '@/session/session';
import { answer, newPage, said, small } from '@/testing/stores';
import { useSurface } from './useSurface';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));

/** A plain fader box: one fader by pitch bend, as no simulated desk speaks. */
const box = {
  ...simulatedProfile,
  id: 'box',
  name: 'Fader box',
  simulated: false,
  width: 1,
  controls: [
    {
      id: 'f1',
      kind: 'fader',
      position: 0,
      in: { type: 'control14', channel: 3, controller: 7 },
      out: null,
      touch: null,
    },
  ],
};

beforeEach(async () => {
  newPage();
  server.ask.mockReset().mockResolvedValue(answer(small));
  await useSession().open('one');
});
afterEach(() => vi.unstubAllGlobals());

it('the shipped profile, which the page takes as it is, is a valid one', () => {
  expect(validProfile(simulatedProfile)).toEqual(validProfile(useSurface().profile));
});
it('profiles that were kept are read, and a device speaks by the one that it is given', async () => {
  const surface = useSurface();
  server.ask.mockResolvedValue({ profiles: [simulatedProfile, box] });
  await surface.loadProfiles();
  expect(surface.profiles.map((p) => p.id)).toEqual([simulatedProfile.id, 'box']);
  const input = {
    id: 'in',
    name: 'Fader box',
    open: vi.fn(),
    close: vi.fn(),
    onmidimessage: null as ((e: { data: Uint8Array }) => void) | null,
  };
  await surface.connect(input as unknown as MIDIInput, null, surface.profiles[1]);
  expect(surface.connections.map((c) => c.profile.id)).toEqual([simulatedProfile.id, 'box']);
  // Its fader, half way up, moves the first strip: controllers 7 and 39 on channel 3.
  input.onmidimessage!({ data: Uint8Array.of(0xb2, 7, 64, 0xb2, 39, 0) });
  const moved = useSession().shown!.strips[0]!;
  expect(moved.faderDb).not.toBe(small.strips[0]!.faderDb);
});
it('what the server cannot give is told, and the shipped profile stays', async () => {
  const surface = useSurface();
  server.ask.mockRejectedValue(new Error('The server is away.'));
  await surface.loadProfiles();
  expect(surface.profiles).toHaveLength(1);
  expect(said()).toEqual(['The server is away.']);
});
