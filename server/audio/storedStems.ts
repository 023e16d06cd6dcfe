import type { Sequelize } from 'sequelize';
import { SliceStream, type FetchSlices } from '../../core/formats/audio/slices';
import { Refusal } from '../../core/base/refusal';
import type { Session } from '../../core/session/types';
import type { Samples } from '../../core/base/units';
import { SlicedStems } from '../../engine/slicedStems';
import { stemSlices } from './stemSlices';
import { knownStems } from './stemStore';

/** Slices of stems as the server gives them to the page, without the network between. */
const slicesFrom =
  (sequelize: Sequelize): FetchSlices =>
  async (slices, take) => {
    const lacking: string[] = [];
    const stream = new SliceStream(({ number, depth, channels }, bytes) => {
      if (depth === 'gone' || depth === 'away') lacking.push(slices[number]!.stem);
      else take(number, { depth, channels, bytes });
    });
    for await (const piece of stemSlices(sequelize, slices)) stream.push(piece);
    stream.end();
    if (lacking.length) throw new Error(`The database gives no stem \`${lacking[0]}\`.`);
  };

/**
 * Reads the stems of a session that is kept, as a print does.
 * @throws Refusal `unknown` naming the strips whose stems are not there
 */
export async function storedStems(
  sequelize: Sequelize,
  session: Session,
): Promise<{ readonly stems: SlicedStems; readonly longest: Samples }> {
  const played = session.strips.filter((s) => s.stem !== null);
  const known = await knownStems(played.map((s) => s.stem!));
  const gone = played.filter((s) => !known[s.stem!]);
  if (gone.length)
    throw new Refusal(
      'unknown',
      `The stems of ${gone.map((s) => `\`${s.name || s.id}\``).join(', ')} are not in the database.`,
      gone.map((s) => s.id),
    );
  return {
    stems: new SlicedStems(known, slicesFrom(sequelize)),
    longest: Math.max(0, ...Object.values(known).map((f) => f.frames)),
  };
}
