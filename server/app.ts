import { createServer, type Server } from 'node:http';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import express, { type Express } from 'express';
import helmet from 'helmet';
import type { Sequelize } from 'sequelize';
import { Access } from './access/access';
import { gate } from './access/gate';
import { Studio, type StudioOptions } from './access/studio';
import { BadRequest, handleErrors, notFound } from './api/errors';
import { apiRoutes } from './api/routes';
import { resumableUploads } from './api/uploads';
import { connectPreamp } from './devices/preampBridge';
import { Spool } from './files/spool';
import { endStalled } from './files/stalled';
import { ownRequest } from './hosts';
import { liveSync, type Live } from './live/live';
import { maintain, type Maintenance } from './maintenance';
import { logRequests } from './log';
import { oscHost, type OscHost } from './osc/host';
import { oscStandIns } from './osc/standIns';
import { keeping } from './sessions/keep';

export interface AppOptions {
  readonly sequelize: Sequelize;
  /** Folder of the built page; without it the API alone is served. */
  readonly page?: string;
  readonly engine?: string;
  /** Names under which the machine may be spoken to, beside its addresses: see hosts.ts. */
  readonly hosts?: readonly string[];
  readonly version?: string;
  /** A folder for uploads under way, whose content is removed; one of its own when left out. */
  readonly spool?: string;
  /** A folder on the database's disk. */
  readonly disk?: string;
  /** Seconds for which a request that is not whole may stand still. */
  readonly patience?: number;
  /** How other machines are let in; without it nobody is but who sits at this one. */
  readonly studio?: Omit<StudioOptions, 'serve'>;
  /** UDP port of a remote preamplifier on this machine; without it nothing is asked. */
  readonly preampPort?: number;
}

export function createApp(options: AppOptions): {
  readonly http: Server;
  readonly app: Express;
  readonly live: Live;
  readonly maintenance: Maintenance;
  readonly osc: OscHost;
  readonly studio: Studio | null;
} {
  const hosts = options.hosts ?? [];
  const app = express();
  const http = createServer(app);
  const patient = (server: Server) => {
    // Longer than clients keep idle connections, so that none is closed under a request.
    server.keepAliveTimeout = 75_000;
    endStalled(server, options.patience);
  };
  patient(http);
  const access = new Access();
  const door = gate(access);
  const ownSpool = options.spool === undefined;
  const spool = new Spool(options.spool ?? mkdtempSync(join(tmpdir(), `zonula-${process.pid}-spool-`)));
  const uploads = resumableUploads(spool);
  const maintenance = maintain(options.sequelize);
  http.once('close', () => {
    uploads.close();
    if (ownSpool) rmSync(spool.folder, { recursive: true, force: true });
  });
  const live = liveSync(
    http,
    async (req) => {
      if (!ownRequest(req, hosts)) return null;
      const who = await door.who(req);
      return who.role === null ? null : who;
    },
    oscStandIns(() => osc.port()),
  );
  const keep = keeping(options.sequelize, live, maintenance, options.disk ?? null);
  access.onLeft((device) => live.cut(device));
  const studio =
    options.studio &&
    new Studio({
      ...options.studio,
      serve(server) {
        patient(server);
        server.on('request', app);
        live.attach(server);
      },
    });
  const osc = oscHost(options.sequelize, live, keep, access, async () => {
    await studio?.begun;
    return studio?.state().open ?? false;
  });
  app.disable('x-powered-by');
  app.use(logRequests);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'", 'data:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'", 'blob:'],
          objectSrc: ["'none'"],
          frameAncestors: ["'none'"],
          upgradeInsecureRequests: null,
        },
      },
      // Shared memory asks for a page that is isolated from others.
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
    }),
  );
  app.use((req, _res, next) => {
    const site = req.headers['sec-fetch-site'];
    const fromElsewhere = site === 'cross-site' && req.headers['sec-fetch-mode'] !== 'navigate';
    if (fromElsewhere || !ownRequest(req, hosts))
      throw new BadRequest(403, 'origin', "Only this server's own pages may ask here.");
    next();
  });
  const preamps =
    options.preampPort === undefined
      ? null
      : connectPreamp({ port: options.preampPort, changed: (state) => live.preamp(state) });
  app.use(
    '/api',
    door.api,
    apiRoutes({
      sequelize: options.sequelize,
      live,
      version: options.version ?? '0.0.0',
      preamps,
      spool,
      uploads,
      maintenance,
      keep,
      osc,
      access,
      studio: studio ?? null,
    }),
    notFound,
  );
  if (options.engine) {
    const engine = options.engine;
    app.get('/engine.wasm', (_req, res) =>
      res.set('Cache-Control', 'no-cache').type('application/wasm').sendFile(engine),
    );
  }
  if (options.page && existsSync(options.page)) {
    const page = options.page;
    app.use('/assets', express.static(join(page, 'assets'), { immutable: true, maxAge: '1y' }), notFound);
    app.use(express.static(page, { maxAge: 0 }));
    app.get('/{*path}', (_req, res) =>
      res.set('Cache-Control', 'no-cache').sendFile(join(page, 'index.html')),
    );
  }
  app.use(handleErrors);
  return { http, app, live, maintenance, osc, studio: studio ?? null };
}
