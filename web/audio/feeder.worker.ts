/// <reference lib="webworker" />
import { Feeder, type FeederMessage } from './feeder';
import { NearStems } from './nearStems';
import { nearFirst } from './stemFetch';

const feeder = new Feeder(nearFirst(new NearStems(navigator.storage)), undefined, (report) =>
  self.postMessage(report),
);
self.onmessage = ({ data }: MessageEvent<FeederMessage>) => feeder.hear(data);
setInterval(() => feeder.fill(), 25);
