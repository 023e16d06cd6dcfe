import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { generateDemo } from '../demo/generate';
import { createApp } from './app';
import { keepNear } from './audio/stemCache';
import { holdDatabase } from './database/alone';
import { startSimulatedPreamp } from './devices/simulatedPreamp';
import { connect, migrate } from './database/database';
import { SessionRow } from './database/models';
import { readEnvironment } from './environment';
import { clearLeftovers } from './files/temporary';
import { namesOf } from './hosts';
import { log } from './log';
import { importPackage } from './sessions/packages';

// What goes wrong in one request or message is told there. What is told nowhere is written down, and the server goes on.
process.on('uncaughtException', (err) => log.error({ err }, 'An unexpected error.'));
process.on('unhandledRejection', (err) => log.error({ err }, 'An unexpected error.'));

const root = fileURLToPath(new URL('..', import.meta.url));
const environment = environmentOrEnd();
const { DATABASE_URL: url, ZONULA_HOST: host, PORT: port } = environment;
const data = environment.ZONULA_DATA ?? join(root, '.data');
const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as { version: string };

function environmentOrEnd() {
  try {
    return readEnvironment(process.env);
  } catch (error) {
    console.error((error as Error).message);
    process.exit(2);
  }
}

const letGo = await holdDatabase(url, () => {
  console.error('Another Zonula server has taken the database; this one ends.');
  process.exit(1);
});
if (!letGo) {
  console.error(
    'Another Zonula server uses this database already. Nothing was changed. Stop it first, or give DATABASE_URL another.',
  );
  process.exit(1);
}
clearLeftovers();
const sequelize = connect(url);
await migrate(sequelize);
const near = keepNear(sequelize, join(data, 'near'), environment.ZONULA_NEAR_GB * 1e9);

if (environment.ZONULA_DEMO === 'yes' && (await SessionRow.count()) === 0) {
  const folder = join(data, 'demo');
  console.log('Making the demo session, Lantern Tide …');
  await generateDemo(folder, environment.ZONULA_DEMO_SECONDS);
  await importPackage(sequelize, folder);
}

// No real preamplifier is at hand: a simulated one answers over its own socket.
const preamp = await startSimulatedPreamp();
const everywhere = ['0.0.0.0', '::'].includes(host);
const loopback = ['127.0.0.1', '::1', 'localhost'].includes(host);
const { http, live, maintenance, osc, studio } = createApp({
  spool: join(data, 'spool'),
  disk: environment.ZONULA_CLUSTER,
  preampPort: preamp.port,
  sequelize,
  page: join(root, 'build', 'web'),
  engine: join(root, 'build', 'engine.wasm'),
  hosts: namesOf([host, ...environment.ZONULA_NAMES]),
  studio: {
    port,
    securePort: environment.ZONULA_HTTPS_PORT ?? port + 1,
    everywhere,
    forced: !loopback,
    ...(everywhere || loopback ? {} : { addresses: () => [host] }),
    folder: data,
    certificate:
      environment.ZONULA_CERT && environment.ZONULA_KEY
        ? { cert: environment.ZONULA_CERT, key: environment.ZONULA_KEY }
        : null,
  },
  version,
});

http.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is taken. Stop what uses it, or choose another: PORT=4811 npm start`
      : `The server cannot start: ${error.message}`,
  );
  process.exit(1);
});
// Who sits at the machine itself comes by the loopback, whatever else is opened.
http.listen(port, everywhere || loopback ? host : '127.0.0.1', () =>
  console.log(`Zonula is ready at http://${host.includes(':') ? `[${host}]` : host}:${port}`),
);

let stopping = false;
async function stop() {
  if (stopping) return;
  stopping = true;
  // Requests under way get a moment to end; then connections are cut.
  setTimeout(() => http.closeAllConnections(), 1500).unref();
  // What a hand on a controller holds is kept first.
  await Promise.race([osc.close(), new Promise((done) => setTimeout(done, 2000))]).catch(() => {});
  await Promise.race([studio?.close(), new Promise((done) => setTimeout(done, 1000))]).catch(() => {});
  await live.close().catch(() => {});
  await preamp.close().catch(() => {});
  http.closeAllConnections();
  // What tidies up is cut where it takes long: the database undoes it.
  await Promise.race([maintenance.close(), new Promise((done) => setTimeout(done, 2000))]);
  await near?.close();
  await sequelize.close().catch(() => {});
  await letGo!();
  process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
// Whoever started it is gone, killed perhaps: nobody else will end it.
if (process.send) {
  process.on('disconnect', () => void stop());
  if (!process.connected) void stop();
}
// What the last run left to do: an import that was killed, say.
setTimeout(() => void maintenance.round(), 60_000).unref();
