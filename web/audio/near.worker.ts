/// <reference lib="webworker" />
import { NearStems } from './nearStems';
import { nearAnswers, type NearMessage } from './nearThread';

const hear = nearAnswers(new NearStems(navigator.storage), (answer, moved = []) =>
  self.postMessage(answer, moved),
);
self.onmessage = ({ data }: MessageEvent<NearMessage>) => hear(data);
