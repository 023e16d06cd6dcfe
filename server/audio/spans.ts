import type { Sequelize } from 'sequelize';
import { SpanMeter, type Spans } from '../../core/metering/spans';
import { StemRow } from '../database/models';
import { CHUNK_BYTES, stemPcm } from './stemStore';

/** Where a stored stem sounds; null where it is not there any more. */
export async function spansOfStem(sequelize: Sequelize, row: StemRow): Promise<Spans | null> {
  const meter = new SpanMeter(row.channels, row.sampleRate);
  const step = CHUNK_BYTES / 4 / row.channels;
  for (let at = 0; at < row.frames; at += step) {
    const part = await stemPcm(sequelize, row, at, step);
    if (!part) return null;
    // The database's buffer may begin anywhere: floats want a place of their own.
    const bytes = Uint8Array.from(part);
    meter.push(new Float32Array(bytes.buffer, 0, bytes.length >> 2));
  }
  return meter.end();
}

/** Looks where stems sound that were stored before that was looked for. @returns how many there were */
export async function findSpans(sequelize: Sequelize): Promise<number> {
  const rows = await StemRow.findAll({
    where: { spans: null },
    order: [['id', 'DESC']],
    attributes: { exclude: ['overview'] },
  });
  let found = 0;
  for (const row of rows) {
    const spans = await spansOfStem(sequelize, row);
    if (!spans) continue;
    await StemRow.update({ spans }, { where: { id: row.id } });
    found++;
  }
  return found;
}
