import { json, type Router } from 'express';
import { suffices, type Role } from '../../core/base/role';
import type { Command } from '../../core/edits/commands';
import { kindOf } from '../../core/edits/commands';
import { BadRequest } from '../api/errors';
import { valid } from '../api/valid';
import type { Access } from './access';
import type { Who } from './gate';
import { codeSchema, deviceSchema, openSchema, pairSchema } from './schemas';
import type { Studio } from './studio';

/** What a role lets be kept. @throws BadRequest for what removes something, or brings something in, where the role does not */
export const mayKeep =
  (role: Role | null) =>
  (commands: readonly Command[]): void => {
    if (role !== null && !suffices(role, 'mix') && commands.some((c) => kindOf(c).removes))
      throw new BadRequest(
        403,
        'role',
        'This machine may lay hands on the mix, and remove nothing or bring anything in.',
      );
  };

/** Letting other machines in. @param changed told when Zonula was opened, or closed */
export function accessRoutes(
  api: Router,
  access: Access,
  studio: Studio | null,
  changed: () => Promise<void>,
): void {
  const state = (who: Who) => {
    const device = who.device === null ? null : access.find(who.device);
    const me = { own: who.own, role: who.role, name: device?.name ?? null };
    return who.own
      ? { ...me, studio: studio?.state() ?? null, code: access.code, devices: access.list() }
      : { ...me, https: studio?.state().https ?? [] };
  };
  api.get('/access', async (req, res) => {
    await access.ready;
    await studio?.begun;
    res.json(state(req.who!));
  });
  api.put('/access', json({ limit: '1kb' }), async (req, res) => {
    const { open } = valid(openSchema, req.body);
    if (!studio) throw new BadRequest(503, 'away', 'This server cannot be opened: start it by `npm start`.');
    await studio.switch(open);
    if (!open) access.endCode();
    await changed();
    res.json(state(req.who!));
  });
  api.post('/access/code', json({ limit: '1kb' }), (req, res) => {
    res.json(access.newCode(valid(codeSchema, req.body).role));
  });
  api.delete('/access/code', (_req, res) => {
    access.endCode();
    res.status(204).end();
  });
  api.post('/access/pair', json({ limit: '1kb' }), async (req, res) => {
    const { code, name } = valid(pairSchema, req.body);
    if (req.who!.own) throw new BadRequest(400, 'own', 'This is the machine itself: it needs no code.');
    const device = await access.pair(req.socket.remoteAddress ?? '', code, name);
    // What it was let in as before ends: a session of before is never taken over.
    const before = req.who!.device;
    if (before) await access.remove(before);
    req.session = { device: device.id, at: Date.now() };
    res.json({ own: false, role: device.role, name: device.name });
  });
  api.post('/access/leave', async (req, res) => {
    if (req.who!.device) await access.remove(req.who!.device);
    req.session = null;
    res.status(204).end();
  });
  api.put('/access/devices/:id', json({ limit: '1kb' }), async (req, res) => {
    res.json({ device: await access.change(req.params.id, valid(deviceSchema, req.body)) });
  });
  api.delete('/access/devices/:id', async (req, res) => {
    await access.remove(req.params.id);
    res.status(204).end();
  });
}
