import { expect, it } from 'vitest';
import { soak } from './soak';

// A short run of `npm run soak`; docs/reliability.md says what is promised.
it('under kills, floods, half-open uploads and a disk that stands still, nothing that was acknowledged is lost, and windows end equal', async () => {
  const { acknowledged, stems, done, lost } = await soak(0.55);
  expect(lost).toEqual({
    acknowledgedEdits: 0,
    editsWithoutAWord: 0,
    stems: 0,
    windowsThatDiffer: 0,
    problemsOfTheDoctor: [],
  });
  // The run says something only where much was done.
  expect(acknowledged).toBeGreaterThan(100);
  expect(stems).toBeGreaterThan(5);
  expect(Object.keys(done)).toEqual(
    expect.arrayContaining(['server killed', 'database killed', 'window killed', 'launcher killed', 'flood']),
  );
});
