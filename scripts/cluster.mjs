// The files of the project's own PostgreSQL: where they are, whether they are whole, and how they are made. What cannot be read
// is never removed.
import { randomBytes, createHash } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeSync,
} from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { asUser, installDebian, postgresBinaries, reachable, run, unprivileged } from './debian.mjs';

/** What keeps the database from being started, and what to do. Nothing was changed. */
export class ClusterProblem extends Error {}

const untouched = 'Nothing was changed.';

/** Writes a file so that after a power cut it is there whole, or not at all. */
export function writeWhole(file, text, mode = 0o600) {
  const part = `${file}.${process.pid}.part`;
  const opened = openSync(part, 'w', mode);
  writeSync(opened, text);
  fsyncSync(opened);
  closeSync(opened);
  renameSync(part, file);
}

/** What stands in database.json: 'missing', 'damaged', or its password and where its cluster is. */
function readSecrets(file) {
  if (!existsSync(file)) return 'missing';
  try {
    const { password, cluster } = JSON.parse(readFileSync(file, 'utf8'));
    if (typeof password === 'string' && password) return { password, cluster };
  } catch {
    // Told below.
  }
  return 'damaged';
}

/** 'none' where there is nothing, 'whole' where there is a cluster, 'odd' where there is something else. */
function clusterState(folder) {
  if (!existsSync(folder) || readdirSync(folder).length === 0) return 'none';
  return existsSync(join(folder, 'PG_VERSION')) && existsSync(join(folder, 'global', 'pg_control'))
    ? 'whole'
    : 'odd';
}

/** Where the cluster of a data folder belongs, and what names it. */
export function locateCluster(data) {
  const user = unprivileged();
  mkdirSync(data, { recursive: true });
  const secrets = join(resolve(data), 'database.json');
  const named = readSecrets(secrets);
  let cluster = join(resolve(data), 'postgres');
  if (user && !reachable(user, dirname(cluster))) {
    // The project stands where that user may not go (a home folder, say): the cluster stands beside it.
    const mark = createHash('sha256').update(resolve(data)).digest('hex').slice(0, 12);
    cluster = join('/var/lib/zonula', mark);
    mkdirSync(dirname(cluster), { recursive: true });
    chmodSync(dirname(cluster), 0o755);
  }
  // The data folder was moved since: its database is still where it was made.
  const recorded = named.cluster;
  if (
    recorded &&
    recorded !== cluster &&
    clusterState(cluster) === 'none' &&
    clusterState(recorded) === 'whole'
  )
    cluster = recorded;
  return { user, secrets, named, cluster };
}

/**
 * The cluster of a data folder, made where there is neither a cluster nor a password of one.
 * @returns { cluster, password, user, bin }
 * @throws ClusterProblem where files are there and are no cluster that can be started; nothing was changed then
 */
export function openCluster({ user, secrets, named, cluster }, { quiet = false } = {}) {
  const making = `${cluster}.making`;
  let state = clusterState(cluster);
  if (state === 'none' && named.password && clusterState(making) === 'whole') {
    // The last start was stopped between the password and the cluster's last step.
    rmSync(cluster, { recursive: true, force: true });
    renameSync(making, cluster);
    state = 'whole';
  }
  if (state === 'odd')
    throw new ClusterProblem(
      `${cluster} holds files, and not a whole database (PG_VERSION or global/pg_control is missing). ${untouched}\n` +
        `Put back what is missing, or restore a backup: move this folder and ${secrets} away, start, then \`bin/zonula restore FILE\`.`,
    );
  if (state === 'whole' && !named.password)
    throw new ClusterProblem(
      `${cluster} holds a database, and its password is ${named === 'missing' ? 'not there' : 'damaged'}: ${secrets}. ${untouched}\n` +
        `Put that file back as it was. Where it is lost, \`npm start -- --new-password\` gives the database a new one and keeps all that is in it.`,
    );
  if (state === 'none' && named !== 'missing')
    throw new ClusterProblem(
      named === 'damaged'
        ? `${secrets} is damaged, and there is no database at ${cluster}. ${untouched}\nPut both back as they were; to begin with an empty one, move ${secrets} away.`
        : `${secrets} belongs to a database at ${named.cluster ?? cluster}, and there is none. Is its disk there? ${untouched}\nPut the folder back; to begin with an empty one, move ${secrets} away.`,
    );
  if (state === 'none') return make({ user, secrets, cluster, making, quiet });
  return { cluster, password: named.password, user, bin: binariesFor(cluster) };
}

function binariesFor(cluster) {
  const version = readFileSync(join(cluster, 'PG_VERSION'), 'utf8').trim();
  const bin = postgresBinaries(version);
  if (!bin)
    throw new ClusterProblem(
      `The database at ${cluster} is of PostgreSQL ${version}, which is not installed here. ${untouched}\nInstall it: apt-get install postgresql-${version}`,
    );
  return bin;
}

function make({ user, secrets, cluster, making, quiet }) {
  let bin = postgresBinaries();
  if (!bin) {
    installDebian(['postgresql'], 'No PostgreSQL server was found.');
    bin = postgresBinaries();
    // The package has made the user that the server runs as.
    user = unprivileged();
  }
  if (!quiet) console.log('Making a database …');
  // One that was never finished, and so never used.
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { mode: 0o700 });
  if (user) chownSync(making, user.uid, user.gid);
  const password = randomBytes(24).toString('hex');
  const passwordFile = `${making}.pw`;
  writeWhole(passwordFile, password);
  if (user) chownSync(passwordFile, user.uid, user.gid);
  const [command, ...args] = [
    ...asUser(user),
    join(bin, 'initdb'),
    ...['-D', making, '-U', 'zonula', '--auth=scram-sha-256', `--pwfile=${passwordFile}`],
    ...['-E', 'UTF8', '--locale=C.UTF-8'],
  ];
  const made = run(command, args, { cwd: '/' });
  rmSync(passwordFile, { force: true });
  if (made.status !== 0) {
    rmSync(making, { recursive: true, force: true });
    throw new ClusterProblem(`The database could not be made:\n${made.stderr}${made.error ?? ''}`);
  }
  writeWhole(secrets, JSON.stringify({ password, cluster }));
  rmSync(cluster, { recursive: true, force: true });
  renameSync(making, cluster);
  return { cluster, password, user, bin };
}

/** Gives a cluster that does not run a new password, by PostgreSQL's single-user mode, and writes it down. */
export function newPassword({ user, secrets, cluster }) {
  if (clusterState(cluster) !== 'whole')
    throw new ClusterProblem(`There is no whole database at ${cluster} to give a password to. ${untouched}`);
  const password = randomBytes(24).toString('hex');
  const [command, ...args] = [
    ...asUser(user),
    join(binariesFor(cluster), 'postgres'),
    ...['--single', '-D', cluster, 'postgres'],
  ];
  const done = run(command, args, { cwd: '/', input: `ALTER USER zonula PASSWORD '${password}'\n` });
  if (done.status !== 0 || /ERROR|FATAL/.test(done.stdout + done.stderr))
    throw new ClusterProblem(`The password could not be set:\n${done.stdout}${done.stderr}`);
  if (existsSync(secrets)) renameSync(secrets, `${secrets}.before`);
  writeWhole(secrets, JSON.stringify({ password, cluster }));
}
