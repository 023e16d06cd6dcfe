import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { json, Router, type Request } from 'express';
import Joi from 'joi';
import type { Sequelize } from 'sequelize';
import type { PreampSettings } from '../../core/devices/preamp';
import { fieldSchemas } from '../../core/formats/sessionSchema';
import { validPreset } from '../../core/settings/preset';
import { validProfile } from '../../core/surface/profile';
import simulatedDesk from '../../core/surface/profiles/simulatedDesk.json';
import { forgetStem, rememberedStem, stemPcm, stemRow, storeStem } from '../audio/stemStore';
import { PresetRow, SurfaceProfileRow } from '../database/models';
import type { PreampBridge } from '../devices/preampBridge';
import type { Live } from '../live/live';
import * as sessions from '../sessions';
import { BadRequest } from './errors';

/** Bytes that one upload may have. */
const MOST_UPLOAD = 8 * 2 ** 30;
const COMMIT_LIMIT = '4mb';

/** @throws BadRequest naming the field */
function valid<T>(schema: Joi.ObjectSchema<T>, value: unknown, convert = false): T {
  const { value: out, error } = schema.validate(value, { convert });
  if (error)
    throw new BadRequest(400, 'format', `The request is not understood: ${error.details[0]!.message}.`);
  return out;
}

const createSchema = Joi.object<{ name: string; sampleRate: number }>({
  name: Joi.string().trim().min(1).max(200).required(),
  sampleRate: Joi.number().valid(44100, 48000, 88200, 96000).default(48000),
});
const commitSchema = Joi.object<sessions.CommitRequest>({
  revision: Joi.number().integer().min(0).required(),
  changeId: Joi.string().guid().required(),
  kind: Joi.string().valid('edit', 'undo', 'redo').default('edit'),
  label: Joi.string().max(300).required(),
  commands: Joi.array().required(),
});
const stemQuery = Joi.object<{ name: string; rate: number }>({
  name: Joi.string().max(300).required(),
  rate: Joi.number().integer().min(8000).max(192000).required(),
});
const pcmQuery = Joi.object<{ start: number; frames: number }>({
  start: Joi.number().integer().min(0).default(0),
  frames: Joi.number()
    .integer()
    .min(1)
    .max(1 << 20)
    .default(65536),
});
const afterQuery = Joi.object<{ after: number }>({ after: Joi.number().integer().min(0).default(0) });

/** The request's body, refused where it grows beyond the limit. */
async function* bodyOf(req: Request, most = MOST_UPLOAD): AsyncGenerator<Buffer> {
  let seen = 0;
  for await (const piece of req) {
    seen += (piece as Buffer).length;
    if (seen > most) throw new BadRequest(413, 'size', `The file is larger than ${most} bytes.`);
    yield piece as Buffer;
  }
}

export function apiRoutes(
  sequelize: Sequelize,
  live: Live,
  version: string,
  preamps: Promise<PreampBridge> | null = null,
): Router {
  const api = Router();

  api.get('/health', async (_req, res) => {
    await sequelize.query('SELECT 1');
    res.json({ ok: true, version, database: 'ready' });
  });

  api.get('/sessions', async (_req, res) => {
    res.json({ sessions: await sessions.listSessions() });
  });
  api.post('/sessions', json(), async (req, res) => {
    const { name, sampleRate } = valid(createSchema, req.body);
    const row = await sessions.createSession(name, sampleRate);
    res.status(201).json({ id: row.id, name: row.name });
  });
  api.post('/sessions/import', async (req, res) => {
    const folder = await mkdtemp(join(tmpdir(), 'zonula-import-'));
    try {
      const file = join(folder, 'package.zonula');
      let seen = 0;
      const limit = new Transform({
        transform(piece: Buffer, _e, done) {
          seen += piece.length;
          done(
            seen > MOST_UPLOAD
              ? new BadRequest(413, 'size', `The package is larger than ${MOST_UPLOAD} bytes.`)
              : null,
            piece,
          );
        },
      });
      await pipeline(req, limit, createWriteStream(file));
      const row = await sessions.importPackage(sequelize, file);
      res.status(201).json({ id: row.id, name: row.name });
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });
  api.get('/sessions/:id', async (req, res) => {
    const row = await sessions.findSession(req.params.id);
    res.json({ id: row.id, revision: row.revision, document: row.document });
  });
  api.post('/sessions/:id/open', async (req, res) => {
    const opened = await sessions.openSession(req.params.id);
    res.json({ ...opened, stems: await sessions.stemsOfSession(opened.document) });
  });
  api.delete('/sessions/:id', async (req, res) => {
    await sessions.deleteSession(sequelize, req.params.id);
    live.deleted(req.params.id);
    res.status(204).end();
  });
  api.get('/sessions/:id/changes', async (req, res) => {
    const { after } = valid(afterQuery, req.query, true);
    res.json({ changes: await sessions.changesAfter(req.params.id, after) });
  });
  api.post('/sessions/:id/commits', json({ limit: COMMIT_LIMIT }), async (req, res) => {
    const request = valid(commitSchema, req.body);
    const { change, fresh } = await sessions.commit(sequelize, req.params.id, request);
    if (fresh) live.committed(req.params.id, change);
    res.json({ change });
  });
  api.get('/sessions/:id/export', async (req, res) => {
    const row = await sessions.findSession(req.params.id);
    const file = `${row.name.replace(/[^\p{L}\p{N} _-]+/gu, '_') || 'session'}.zonula`;
    res.attachment(file).type('application/zip');
    const { stream, done } = sessions.exportPackage(sequelize, row);
    await Promise.all([done, pipeline(stream, res)]);
  });

  api.post('/stems', async (req, res) => {
    const { name, rate } = valid(stemQuery, req.query, true);
    res.status(201).json(await storeStem(sequelize, name, rate, bodyOf(req)));
  });
  api.get('/stems/:address', async (req, res) => {
    const row = await stemRow(req.params.address);
    res.json({
      channels: row.channels,
      sampleRate: row.sampleRate,
      frames: row.frames,
      overview: row.overview.toString('base64'),
    });
  });
  api.get('/stems/:address/pcm', async (req, res) => {
    const { start, frames } = valid(pcmQuery, req.query, true);
    const row = await rememberedStem(req.params.address);
    const audio = await stemPcm(sequelize, row, start, frames);
    if (audio.length === 0 && start < row.frames) forgetStem(req.params.address);
    // What is named by its content never changes.
    res.set('Cache-Control', 'public, max-age=31536000, immutable').type('application/octet-stream');
    res.send(audio);
  });

  api.get('/surface-profiles', async (_req, res) => {
    const rows = await SurfaceProfileRow.findAll({ order: [['name', 'ASC']] });
    res.json({ profiles: [simulatedDesk, ...rows.map((r) => r.profile)] });
  });
  api.put('/surface-profiles/:id', json({ limit: '1mb' }), async (req, res) => {
    const profile = validProfile(req.body);
    if (profile.id !== req.params.id || profile.simulated)
      throw new BadRequest(
        400,
        'format',
        'The profile bears another id than its address, or calls itself simulated.',
      );
    await SurfaceProfileRow.upsert({ id: profile.id, name: profile.name, profile });
    res.json({ profile });
  });
  api.get('/preamps', async (_req, res) => {
    res.json({ simulated: true, connected: preamps !== null, states: (await preamps)?.states() ?? [] });
  });
  api.post('/preamps', json({ limit: '20kb' }), async (req, res) => {
    const { value, error } = fieldSchemas.strip.preamp.required().validate(req.body, { convert: false });
    if (error || value === null)
      throw new BadRequest(
        400,
        'format',
        `The request is not understood: ${error?.message ?? 'no settings'}.`,
      );
    if (!preamps)
      throw new BadRequest(
        503,
        'away',
        'No preamplifier is connected. Start Zonula anew to start the simulated one.',
      );
    res.json({ state: (await preamps).ask(value as PreampSettings) });
  });

  api.get('/presets', async (_req, res) => {
    const rows = await PresetRow.findAll({ order: [['name', 'ASC']] });
    res.json({ presets: rows.map((r) => ({ id: r.id, preset: r.settings })) });
  });
  api.post('/presets', json({ limit: '1mb' }), async (req, res) => {
    const preset = validPreset(req.body);
    const row = await PresetRow.create({ name: preset.name, kind: preset.kind, settings: preset });
    res.status(201).json({ id: row.id, preset });
  });
  api.put('/presets/:id', json({ limit: '1mb' }), async (req, res) => {
    const preset = validPreset(req.body);
    const row = await presetRow(req.params.id);
    await row.update({ name: preset.name, kind: preset.kind, settings: preset });
    res.json({ id: row.id, preset });
  });
  api.delete('/presets/:id', async (req, res) => {
    await (await presetRow(req.params.id)).destroy();
    res.status(204).end();
  });
  return api;
}

/** @throws BadRequest 404 where there is no such preset */
async function presetRow(id: string): Promise<PresetRow> {
  const row = /^[0-9a-f-]{36}$/i.test(id) ? await PresetRow.findByPk(id) : null;
  if (!row) throw new BadRequest(404, 'unknown', 'There is no such preset any more: it was removed.');
  return row;
}
