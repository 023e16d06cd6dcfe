// Counts what the page must not grow back into: controls of our own where Vuetify has one, styles, long files. Fails when it does.
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const web = join(process.argv[2] ?? root, 'web');

/** Where controls of our own belong: cells that are typed over, lanes, curves that are dragged, the desk, the ribbon. */
const OWN = [
  /^sheet\//,
  /^automation\/(LaneRow|TimeRuler)\.vue$/,
  /^inserts\/EqualizerCurve\.vue$/,
  /^surface\/parts\//,
  /^app\/transport\//,
  // The table that a plot is told as.
  /^ui\/Plot\.vue$/,
];
/** The most that there may be. Lower them when there is less; they are not raised. */
const LIMITS = { controls: 0, styles: 1558, long: 0 };
const LONGEST = 400;

function* filesBelow(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(path);
    else if (/\.(vue|ts|css)$/.test(entry.name)) yield path;
  }
}

const controls = [];
const long = [];
let styles = 0;
for (const path of filesBelow(web)) {
  const name = relative(web, path).replaceAll('\\', '/');
  const text = readFileSync(path, 'utf8');
  const lines = text.split('\n').length - 1;
  if (name.endsWith('.css')) styles += lines;
  else {
    for (const [, block] of text.matchAll(/<style[^>]*>\n?([\s\S]*?)<\/style>/g))
      styles += block.split('\n').length - 1;
    const template = /<template>([\s\S]*)<\/template>/.exec(text)?.[1] ?? '';
    if (!OWN.some((own) => own.test(name)))
      for (const [tag] of template.matchAll(/<(button|input|select|table)[\s>/]/g))
        controls.push(`${name}: ${tag.trim()}`);
  }
  // A file may be long for a reason, which its first lines give.
  const head = text.split('\n').slice(0, 6).join('\n');
  if (lines > LONGEST && !/long because/i.test(head)) long.push(`${name}: ${lines} lines`);
}
const counts = { controls: controls.length, styles, long: long.length };
const over = Object.keys(LIMITS).filter((key) => counts[key] > LIMITS[key]);
console.log(
  `The page: ${counts.controls} raw controls outside the places of our own, ${counts.styles} lines of styles, ` +
    `${counts.long} files over ${LONGEST} lines without a reason.`,
);
if (over.length) {
  for (const line of [...controls, ...long]) console.error(`  ${line}`);
  console.error(`More than there may be: ${over.map((k) => `${k} (at most ${LIMITS[k]})`).join(', ')}.`);
  process.exit(1);
}
