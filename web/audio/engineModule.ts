import { say } from './texts';
import RehearseWorker from './rehearse.worker?worker';
import { runWorker } from './runWorker';

let compiled: Promise<WebAssembly.Module> | null = null;
/** The compiled engine, fetched once. */
export function loadEngine(): Promise<WebAssembly.Module> {
  compiled ??= fetch('/engine.wasm').then(async (response) => {
    if (!response.ok) throw new Error(say('audioEngineCouldNotLoaded'));
    return WebAssembly.compile(await response.arrayBuffer());
  });
  compiled.catch(() => (compiled = null));
  return compiled;
}

let rehearsed: Promise<unknown> | null = null;
/**
 * Has the engine run once in a thread of its own, so that a browser has compiled it well before anybody plays: the audio thread has no
 * time for code that is not. Where that fails, playing is as good as without it.
 */
export function rehearseEngine(): Promise<unknown> {
  rehearsed ??= runWorker(() => new RehearseWorker(), {}).catch(() => (rehearsed = null));
  return rehearsed;
}
