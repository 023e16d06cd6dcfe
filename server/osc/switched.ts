import Joi from '../../core/session/fields/joi';
import { SettingRow } from '../database/models';

/** Whether OSC is switched on, and where it listens. */
export interface OscSwitch {
  readonly on: boolean;
  readonly port: number;
}
export const OSC_PORT = 9000;
export const oscSwitchSchema = Joi.object<OscSwitch>({
  on: Joi.boolean().required(),
  /** Those below are the system's own. */
  port: Joi.number().integer().min(1024).max(65535).required(),
});
const NAME = 'osc';

export async function readOscSwitch(): Promise<OscSwitch> {
  const row = await SettingRow.findByPk(NAME);
  const { value, error } = oscSwitchSchema.validate(row?.value);
  return row && !error ? value : { on: false, port: OSC_PORT };
}
export const keepOscSwitch = (value: OscSwitch) => SettingRow.upsert({ name: NAME, value });
