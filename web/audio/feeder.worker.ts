/// <reference lib="webworker" />
import { Feeder, type FeederMessage } from './feeder';
import { fetchPiece } from './stemFetch';

const feeder = new Feeder(fetchPiece);
self.onmessage = ({ data }: MessageEvent<FeederMessage>) => feeder.hear(data);
setInterval(() => feeder.fill(), 25);
