const ENDINGS = ['wav', 'wave', 'bwf', 'rf64', 'bw64', 'aif', 'aiff', 'aifc', 'flac'];

/** What a window to choose files shows: whatever it does not, may be dropped, and is judged by what is in it. */
export const AUDIO_FILES = [
  ...ENDINGS.map((e) => `.${e}`),
  '.zip',
  'audio/wav',
  'audio/aiff',
  'audio/flac',
].join(',');

/** Whether a file in a folder or a ZIP file is meant to be audio, by its name's ending. */
export const isAudioName = (name: string) => new RegExp(`\\.(?:${ENDINGS.join('|')})$`, 'i').test(name);
