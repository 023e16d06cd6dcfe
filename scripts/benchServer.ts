import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Sequelize } from 'sequelize';
import { createApp } from '../server/app';

export const root = fileURLToPath(new URL('..', import.meta.url));

/** The server with the page as it was built, on loopback, at a port that is free. */
export async function serve(
  sequelize: Sequelize,
): Promise<{ readonly base: string; readonly close: () => Promise<void> }> {
  const { http, live } = createApp({
    sequelize,
    page: join(root, 'build', 'web'),
    engine: join(root, 'build', 'engine.wasm'),
  });
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  return {
    base: `http://127.0.0.1:${(http.address() as AddressInfo).port}`,
    async close() {
      await live.close();
      http.closeAllConnections();
      http.close();
    },
  };
}
