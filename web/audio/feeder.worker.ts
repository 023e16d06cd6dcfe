/// <reference lib="webworker" />
import { Feeder, type FeederMessage } from './feeder';
import NearWorker from './near.worker?worker';
import { NearThread } from './nearThread';
import { fetchSlices, nearFirst } from './stemFetch';

/** Where a thread may have none of its own, nothing is near. */
function slices() {
  try {
    return nearFirst(new NearThread(new NearWorker()));
  } catch {
    return fetchSlices;
  }
}
const feeder = new Feeder(slices(), undefined, (report) => self.postMessage(report));
self.onmessage = ({ data }: MessageEvent<FeederMessage>) => feeder.hear(data);
setInterval(() => feeder.fill(), 25);
