import { rehearse } from '@engine/rehearsal';

self.onmessage = ({ data }: MessageEvent<{ readonly module: WebAssembly.Module }>) => {
  rehearse(data.module, () => performance.now());
  self.postMessage({ type: 'done' });
};
