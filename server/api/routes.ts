import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { json, Router } from 'express';
import type { Sequelize } from 'sequelize';
import type { PreampSettings } from '../../core/devices/preamp';
import { fieldSchemas } from '../../core/session/fields/fieldSchemas';
import { validPreset } from '../../core/settings/preset';
import { validDesk } from '../../core/surface/desk/validDesk';
import { validProfile } from '../../core/surface/profile/validProfile';
import { standIns } from '../../core/surface/stands/stands';
import { readAudioHeader } from '../../core/formats/audio/audioFile';
import { FactsBehind, type AudioFacts } from '../../core/formats/audio/facts';
import { Refusal } from '../../core/base/refusal';
import { judgeLength } from '../audio/stemReader';
import { stemSlices } from '../audio/stemSlices';
import { sendStemFile } from '../audio/stemFile';
import { knownStems, stemAudio, stemInfo, stemRow, storeFile } from '../audio/stemStore';
import { sweepStems, stemIdsOf } from '../audio/sweep';
import { DeskRow, PresetRow, SurfaceProfileRow } from '../database/models';
import type { PreampBridge } from '../devices/preampBridge';
import type { Access } from '../access/access';
import { accessRoutes, mayKeep } from '../access/routes';
import type { Studio } from '../access/studio';
import type { Live } from '../live/live';
import type { Judge, Spool } from '../files/spool';
import type { Maintenance } from '../maintenance';
import type { OscHost } from '../osc/host';
import { oscSwitchSchema } from '../osc/switched';
import type { Keep } from '../sessions/keep';
import { changeNamed, changesAfter, horizonOf, MOST_MISSED, recentUses } from '../sessions/history';
import { exportPackage, importPackage } from '../sessions/packages';
import * as sessions from '../sessions/sessions';
import { BadRequest } from './errors';
import { apiDocument, apiPage } from './openapi';
import {
  afterQuery,
  usesQuery,
  commitSchema,
  createSchema,
  knownSchema,
  fileQuery,
  pcmQuery,
  slicesSchema,
  stemQuery,
  uploadQuery,
} from './schemas';
import type { Uploads } from './uploads';
import { valid } from './valid';

const COMMIT_LIMIT = '4mb';

/** Bytes of a file that are looked at for its header. */
const MOST_HEAD = 5 << 20;

/** Refuses a file that is no stem by its first bytes, before the rest of it has come. */
function audioJudge(name: string): Judge {
  let head = Buffer.alloc(0);
  return (piece) => {
    head = Buffer.concat([head, piece]);
    let facts: AudioFacts | null;
    try {
      facts = readAudioHeader(head);
      if (facts) judgeLength(facts.frames, facts.sampleRate);
    } catch (error) {
      // What is behind its audio is not there yet.
      if (error instanceof FactsBehind) return true;
      throw error instanceof Refusal
        ? new Refusal(error.rule, `\`${name}\`: ${error.message}.`, [name])
        : error;
    }
    return facts !== null || head.length > MOST_HEAD;
  };
}

export interface ApiOptions {
  readonly sequelize: Sequelize;
  readonly live: Live;
  readonly version: string;
  readonly preamps: Promise<PreampBridge> | null;
  readonly spool: Spool;
  readonly uploads: Uploads;
  readonly maintenance: Maintenance;
  readonly keep: Keep;
  readonly osc: OscHost;
  readonly access: Access;
  readonly studio: Studio | null;
}

export function apiRoutes({
  sequelize,
  live,
  version,
  preamps,
  spool,
  uploads,
  maintenance,
  keep,
  osc,
  access,
  studio,
}: ApiOptions): Router {
  const api = Router();

  api.get('/health', async (_req, res) => {
    await sequelize.query('SELECT 1');
    res.json({ ok: true, version, database: 'ready' });
  });

  api.get('/openapi.json', (_req, res) => {
    res.json(apiDocument(version));
  });
  api.get('/docs', (_req, res) => {
    res.type('html').send(apiPage(version));
  });
  api.get('/sessions', async (_req, res) => {
    res.json({ sessions: await sessions.listSessions(sequelize) });
  });
  api.post('/sessions', json(), async (req, res) => {
    const { name, sampleRate } = valid(createSchema, req.body);
    const row = await sessions.createSession(sequelize, name, sampleRate);
    res.status(201).json({ id: row.id, name: row.name });
  });
  api.post('/sessions/import', async (req, res) => {
    const { upload } = valid(uploadQuery, req.query, true);
    const bring = (file: string) => importPackage(sequelize, file);
    res.status(201).json(await (upload ? uploads.use(upload, bring) : spool.take(req, undefined, bring)));
  });
  api.get('/sessions/:id', async (req, res) => {
    const { id, revision, document } = await sessions.findSession(sequelize, req.params.id);
    res.json({ id, revision, document });
  });
  api.post('/sessions/:id/open', async (req, res) => {
    const opened = await sessions.openSession(sequelize, req.params.id);
    res
      .type('json')
      .send(sessions.stateText(opened, { stems: await sessions.stemsOfSession(opened.document) }));
  });
  api.get('/sessions/:id/state', async (req, res) => {
    res.type('json').send(sessions.stateText(await sessions.sessionState(sequelize, req.params.id)));
  });
  api.delete('/sessions/:id', async (req, res) => {
    const { id } = req.params;
    await sessions.checkSessionThere(id);
    const stems = await stemIdsOf(sequelize, id);
    await sessions.deleteSession(id);
    live.deleted(id);
    await sweepStems(sequelize, stems);
    res.status(204).end();
  });
  api.get('/sessions/:id/changes', async (req, res) => {
    const { after } = valid(afterQuery, req.query, true);
    const { id } = req.params;
    await sessions.checkSessionThere(id);
    // Changes that were let go are not told: who stands before them takes the session as it is.
    const gone = after < (await horizonOf(sequelize, id));
    const changes = gone ? [] : await changesAfter(sequelize, id, after);
    res.json({ changes, more: gone || changes.length === MOST_MISSED });
  });
  api.get('/sessions/:id/uses', async (req, res) => {
    const { hours } = valid(usesQuery, req.query, true);
    await sessions.checkSessionThere(req.params.id);
    res.json({ uses: await recentUses(sequelize, req.params.id, hours) });
  });
  api.get('/sessions/:id/changes/:change', async (req, res) => {
    const { id, change } = req.params;
    await sessions.checkSessionThere(id);
    const found = sessions.isUuid(change) ? await changeNamed(sequelize, id, change) : null;
    if (!found) throw new BadRequest(404, 'unknown', 'That change is not, or no longer, in the history.');
    res.json({ change: found });
  });
  api.post('/sessions/:id/commits', json({ limit: COMMIT_LIMIT }), async (req, res) => {
    const request = valid(commitSchema, req.body);
    res.json({ change: await keep(req.params.id, request, mayKeep(req.who?.role ?? null)) });
  });
  api.get('/sessions/:id/export', async (req, res) => {
    const row = await sessions.findSession(sequelize, req.params.id);
    const file = `${row.name.replace(/[^\p{L}\p{N} _-]+/gu, '_') || 'session'}.zonula`;
    res.attachment(file).type('application/zip');
    const { stream, done } = exportPackage(sequelize, row.document);
    await Promise.all([done, pipeline(stream, res)]);
  });

  api.use('/uploads', uploads.router);
  api.post('/stems', async (req, res) => {
    const { name, rate, upload, cut } = valid(stemQuery, req.query, true);
    const taking = { rate, split: true, asFarAsItGoes: cut };
    const store = (file: string) => storeFile(sequelize, name, taking, { file });
    const stems = await (upload ? uploads.use(upload, store) : spool.take(req, audioJudge(name), store));
    res.status(201).json({ ...stems[0]!, stems });
  });
  api.post('/stems/known', json({ limit: '256kb' }), async (req, res) => {
    const { stems } = valid(knownSchema, req.body);
    res.json({ stems: await knownStems(stems) });
  });
  api.post('/stems/slices', json({ limit: '256kb' }), async (req, res) => {
    const { slices } = valid(slicesSchema, req.body);
    maintenance.played();
    res.type('application/octet-stream').set('Cache-Control', 'no-store');
    await pipeline(Readable.from(stemSlices(sequelize, slices), { objectMode: true }), res).catch((error) => {
      // Whoever asked has jumped elsewhere, and hangs up.
      if ((error as { code?: string }).code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
    });
  });
  api.get('/stems/:address', async (req, res) => {
    const row = await stemRow(req.params.address);
    res.json(stemInfo(row));
  });
  api.get('/stems/:address/pcm', async (req, res) => {
    const { start, frames } = valid(pcmQuery, req.query, true);
    const { address } = req.params;
    maintenance.played();
    const audio = await stemAudio(sequelize, address, start, frames);
    // What is named by its content never changes: its name and range tell it as well as a hash of it.
    res
      .set('ETag', `"${address}-${start}-${frames}"`)
      .set('Cache-Control', 'public, max-age=31536000, immutable')
      .type('application/octet-stream');
    res.send(audio);
  });
  api.get('/stems/:address/file', async (req, res) => {
    const { name } = valid(fileQuery, req.query, true);
    await sendStemFile(sequelize, await stemRow(req.params.address), `${name}.wav`, req, res);
  });

  api.get('/surface-profiles', async (_req, res) => {
    const rows = await SurfaceProfileRow.findAll({ order: [['name', 'ASC']] });
    res.json({ profiles: [...standIns, ...rows.map((r) => r.profile)] });
  });
  api.put('/surface-profiles/:id', json({ limit: '1mb' }), async (req, res) => {
    const profile = validProfile(req.body);
    if (profile.id !== req.params.id || profile.simulated || standIns.some((p) => p.id === profile.id))
      throw new BadRequest(
        400,
        'format',
        'The profile bears another id than its address, that of a stand-in, or calls itself simulated.',
      );
    await SurfaceProfileRow.upsert({ id: profile.id, name: profile.name, profile });
    res.json({ profile });
  });
  api.delete('/surface-profiles/:id', async (req, res) => {
    if ((await SurfaceProfileRow.destroy({ where: { id: req.params.id } })) === 0)
      throw new BadRequest(404, 'unknown', 'There is no such profile any more: it was removed.');
    res.status(204).end();
  });
  api.get('/desks', async (_req, res) => {
    const rows = await DeskRow.findAll({ order: [['name', 'ASC']] });
    res.json({ desks: rows.map((r) => r.desk) });
  });
  api.put('/desks/:id', json({ limit: '1mb' }), async (req, res) => {
    const desk = validDesk(req.body);
    if (desk.id !== req.params.id)
      throw new BadRequest(400, 'format', 'The desk bears another id than its address.');
    await DeskRow.upsert({ id: desk.id, name: desk.name, desk });
    res.json({ desk });
  });
  api.delete('/desks/:id', async (req, res) => {
    if ((await DeskRow.destroy({ where: { id: req.params.id } })) === 0)
      throw new BadRequest(404, 'unknown', 'There is no such desk any more: it was removed.');
    res.status(204).end();
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
  accessRoutes(api, access, studio, () => osc.again());
  api.get('/osc', async (_req, res) => {
    res.json(await osc.state());
  });
  api.put('/osc', json({ limit: '1kb' }), async (req, res) => {
    await osc.switch(valid(oscSwitchSchema, req.body));
    res.json(await osc.state());
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
  const row = sessions.isUuid(id) ? await PresetRow.findByPk(id) : null;
  if (!row) throw new BadRequest(404, 'unknown', 'There is no such preset any more: it was removed.');
  return row;
}
