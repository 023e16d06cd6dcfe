// Runs a bundle with what V8 compiled of it the last time: to compile it anew takes longer than many a command.
const { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, writeSync } = require('node:fs');
const { createRequire, Module } = require('node:module');
const { dirname, join } = require('node:path');
const { Script } = require('node:vm');

/** Compiled code stands in its file twice: of a damaged one V8 would make nothing but a crash. */
function readKept(place) {
  try {
    const both = readFileSync(place);
    const half = both.subarray(0, both.length / 2);
    return half.length > 0 && half.equals(both.subarray(half.length)) ? half : undefined;
  } catch {
    return undefined;
  }
}

function writeKept(place, code) {
  try {
    mkdirSync(dirname(place), { recursive: true });
    const part = `${place}.${process.pid}`;
    const file = openSync(part, 'w');
    for (const half of [code, code]) writeSync(file, half);
    fsyncSync(file);
    closeSync(file);
    renameSync(part, place);
  } catch {
    // Where nothing may be written, every start is like the first.
  }
}

/**
 * @param file a CommonJS bundle
 * @param folder where compiled code is kept; whoever makes the bundle anew empties it
 * @param use what the bundle is used for: for another use other functions of it are compiled
 * @returns what the bundle exports, and how to keep what has been compiled by the time of the call, where that is not yet
 */
function runKept(file, folder, use) {
  const place = join(folder, `${use}-${process.version}-${process.arch}`);
  const cachedData = readKept(place);
  const script = new Script(Module.wrap(readFileSync(file, 'latin1')), { filename: file, cachedData });
  const module = { exports: {} };
  script.runInThisContext()(module.exports, createRequire(file), module, file, dirname(file));
  return {
    exports: module.exports,
    keep: () => {
      if (!cachedData || script.cachedDataRejected) writeKept(place, script.createCachedData());
    },
  };
}

module.exports = { runKept };
