import type { Sequelize } from 'sequelize';
import { SpanMeter, type Spans } from '../../core/metering/spans';
import { StemRow } from '../database/models';
import { floatsOf } from '../../core/formats/audio/samples';
import { wholeStem } from './stemBytes';

/** Where a stored stem sounds; null where it is not there any more. */
export async function spansOfStem(sequelize: Sequelize, row: StemRow): Promise<Spans | null> {
  const meter = new SpanMeter(row.channels, row.sampleRate);
  const reading = wholeStem(sequelize, row);
  for (;;) {
    const { done, value } = await reading.next();
    if (done) {
      if (!value) return null;
      break;
    }
    meter.push(floatsOf(value, row.depth));
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
