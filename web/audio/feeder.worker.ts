/// <reference lib="webworker" />
import { Feeder, type FeederMessage } from './feeder';
import { fetchSlices } from './stemFetch';

const feeder = new Feeder(fetchSlices, undefined, (report) => self.postMessage(report));
self.onmessage = ({ data }: MessageEvent<FeederMessage>) => feeder.hear(data);
setInterval(() => feeder.fill(), 25);
