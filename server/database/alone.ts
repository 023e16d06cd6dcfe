import pg from 'pg';

/** Any number that only servers of Zonula ask for: PostgreSQL 15, 13.3.5, advisory locks. */
const KEY = 0x5a6f6e75;
/** Seconds for which the connection of a server that has just ended may still stand. */
const PATIENCE = 15;

const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

/**
 * Holds a database for this server alone: two that serve one database would not tell each other's windows of edits. PostgreSQL
 * lets go of it when the server's connection ends, however it ends. Where the database is started anew it is taken again.
 * @param lost called when another server has taken it meanwhile
 * @returns how to let go, or null where another server has it
 */
export async function holdDatabase(url: string, lost: () => void): Promise<(() => Promise<void>) | null> {
  let wanted = true;
  let client: pg.Client | null = null;

  /** @returns whether it has it; @throws when the database does not answer */
  async function take(): Promise<boolean> {
    const asking = new pg.Client({
      connectionString: url,
      application_name: 'zonula server',
      keepAlive: true,
      connectionTimeoutMillis: 20_000,
    });
    asking.on('error', () => {});
    await asking.connect();
    try {
      for (let waited = 0; wanted; waited += 0.25) {
        const { rows } = await asking.query<{ held: boolean }>('SELECT pg_try_advisory_lock($1) AS held', [
          KEY,
        ]);
        if (rows[0]!.held) {
          client = asking;
          asking.on('end', () => void again());
          return true;
        }
        if (waited >= PATIENCE) break;
        await rest(250);
      }
      await asking.end();
      return false;
    } catch (error) {
      await asking.end().catch(() => {});
      throw error;
    }
  }

  async function again() {
    client = null;
    while (wanted) {
      await rest(250);
      try {
        if (!(await take()) && wanted) lost();
        return;
      } catch {
        // The database is not back yet.
      }
    }
  }

  if (!(await take())) return null;
  return async () => {
    wanted = false;
    await client?.end().catch(() => {});
  };
}
