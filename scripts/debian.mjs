// What comes from Debian's packages: PostgreSQL's programs, and who runs them.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

const isRoot = () => process.getuid?.() === 0;
export const run = (command, args, options = {}) =>
  spawnSync(command, args, { encoding: 'utf8', ...options });

/**
 * Folder with initdb, pg_ctl and postgres; null where there is none.
 * @param version the major version that is needed; without it the newest that is there
 */
export function postgresBinaries(version) {
  const debian = '/usr/lib/postgresql';
  if (existsSync(debian)) {
    const versions = readdirSync(debian).sort((a, b) => Number(b) - Number(a));
    for (const v of version ? [version] : versions)
      if (existsSync(join(debian, v, 'bin', 'initdb'))) return join(debian, v, 'bin');
  }
  const found = run('sh', ['-c', 'command -v initdb']).stdout.trim();
  if (!found) return null;
  const its = /(\d+)(\.\d+)?\s*$/.exec(
    run(found, ['--version'])
      .stdout.replace(/\(.*\)/, '')
      .trim(),
  )?.[1];
  return version && its !== version ? null : dirname(found);
}

/** Installs a Debian package when it may; says the command when it may not. */
export function installDebian(packages, why) {
  const command = `apt-get update && apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!isRoot() || run('sh', ['-c', 'command -v apt-get']).status !== 0) {
    console.error(`${why}\nInstall it with:\n\n    sudo sh -c '${command}'\n`);
    process.exit(1);
  }
  console.log(`${why} Installing ${packages.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  // A package's own cluster is not wanted: the project makes its own.
  mkdirSync('/etc/postgresql-common', { recursive: true });
  const wish = '/etc/postgresql-common/createcluster.conf';
  if (packages.includes('postgresql') && !existsSync(wish))
    writeFileSync(wish, 'create_main_cluster = false\n');
  const done = run('sh', ['-c', command], { env, stdio: ['ignore', 'pipe', 'pipe'] });
  if (done.status !== 0) {
    console.error(`${done.stderr}\nThe packages could not be installed. Try yourself:\n\n    ${command}\n`);
    process.exit(1);
  }
}

/** Who PostgreSQL runs as, as it refuses to run as root: null is whoever runs this. */
export function unprivileged() {
  if (!isRoot()) return null;
  const name = run('id', ['-u', 'postgres']).status === 0 ? 'postgres' : 'nobody';
  return { name, uid: Number(run('id', ['-u', name]).stdout), gid: Number(run('id', ['-g', name]).stdout) };
}

/** What is put before a command so that this user runs it. */
export const asUser = (user) =>
  user ? ['setpriv', `--reuid=${user.uid}`, `--regid=${user.gid}`, '--clear-groups'] : [];

/** Whether that user may go into the folder. */
export const reachable = (user, folder) => {
  const [command, ...args] = [...asUser(user), 'test', '-x', folder];
  return run(command, args).status === 0;
};
