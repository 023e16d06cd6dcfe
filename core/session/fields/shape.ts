import type { Decibels, Id, Seconds } from '../../base/units';

/** A point of a lane: when, and the value in the control's own unit; a level's null is silence, a switch has 0 and 1. */
export type LanePoint = readonly [time: Seconds, value: number | null];
/** A control's automation: points in the order of time. Two at one time are a jump. */
export type Lane = readonly LanePoint[];
/** Lanes by the id of the control that they move. */
export type Lanes = Readonly<Record<string, Lane>>;

/** What the points of a lane may be. */
export interface LaneValues {
  readonly min: number;
  readonly max: number;
  /** Whether null, which is silence, is a value. */
  readonly silence?: boolean;
  /** Whether there is nothing between the ends. */
  readonly stepped?: boolean;
}

/** What a field may hold. Type, validator, JSON Schema and documentation of it are made from this. */
export type Shape =
  | { readonly kind: 'flag' }
  | { readonly kind: 'level'; readonly top: number }
  | {
      readonly kind: 'number';
      readonly min: number;
      readonly max: number;
      readonly whole?: boolean;
      readonly step?: number;
      readonly nullable?: boolean;
    }
  | { readonly kind: 'choice'; readonly values: readonly (string | number)[] }
  | { readonly kind: 'text'; readonly most: number; readonly least?: number; readonly nullable?: boolean }
  | { readonly kind: 'id'; readonly nullable?: boolean }
  | { readonly kind: 'colour' }
  | { readonly kind: 'processor' }
  /** Values of a processor's parameters by their ids, which the insert's type names. */
  | { readonly kind: 'params' }
  /** Lanes of these controls; of an insert's own where there are none. */
  | { readonly kind: 'lanes'; readonly controls: Readonly<Record<string, LaneValues>> | null }
  | { readonly kind: 'object'; readonly fields: Fields; readonly nullable?: boolean }
  /** Some of the fields of a thing, those that can be set. */
  | { readonly kind: 'patch'; readonly of: Fields }
  /** A thing of one of several kinds, which its field `by` names; each kind has fields of its own. */
  | {
      readonly kind: 'oneOf';
      readonly by: string;
      readonly of: Readonly<Record<string, Fields>>;
      readonly nullable?: boolean;
    }
  | {
      readonly kind: 'list';
      readonly of: Shape;
      readonly most: number | null;
      readonly least?: number;
      readonly unique?: boolean;
    };

/** The type of what a shape holds. */
export type ValueOf<S extends Shape> =
  | (S extends { kind: 'flag' }
      ? boolean
      : S extends { kind: 'level' }
        ? Decibels
        : S extends { kind: 'number' }
          ? number
          : S extends { kind: 'choice'; values: readonly (infer V)[] }
            ? V
            : S extends { kind: 'id' }
              ? Id
              : S extends { kind: 'text' | 'colour' | 'processor' }
                ? string
                : S extends { kind: 'params' }
                  ? Readonly<Record<string, number>>
                  : S extends { kind: 'lanes' }
                    ? Lanes
                    : S extends { kind: 'patch'; of: infer P extends Fields }
                      ? Partial<Pick<Values<P>, Settable<P>>>
                      : S extends { kind: 'object'; fields: infer F extends Fields }
                        ? Values<F>
                        : S extends {
                              kind: 'oneOf';
                              by: infer B extends string;
                              of: infer K extends Readonly<Record<string, Fields>>;
                            }
                          ? { [N in keyof K]: { readonly [X in B]: N } & Values<K[N]> }[keyof K]
                          : S extends { kind: 'list'; of: infer O extends Shape }
                            ? readonly ValueOf<O>[]
                            : never)
  | (S extends { nullable: true } ? null : never);

/** What a sentence about a change may ask for beside the two values. */
export interface Telling {
  /** The thing whose field has changed. */
  readonly id: Id;
  /** What a strip or a VCA is called. */
  named(id: Id | null): string;
  /** Whether another field of the thing is as it was. */
  same(field: string): boolean;
}

/** A field of the session: all that is to be known of it, stated once. */
export interface Field<S extends Shape = Shape> {
  readonly shape: S;
  /** What it has where it is left out: for everything, or by the strip's kind. A field without one is always there. */
  readonly default?: ValueOf<S>;
  defaultBy?(kind: string): ValueOf<S>;
  /** Whether it stays as it was made: it is in no patch. */
  readonly fixed?: boolean;
  /** Whether a change of it alone can break a rule: of the whole session, so that all are held against it, or of the thing itself. */
  readonly ruled?: true | 'itself';
  /** The part of a link that carries it from strip to strip. */
  readonly link?: string;
  /** What it is, in a sentence, where its name does not say it: for documents. */
  readonly about?: string;
  /** What a change of it is called, after the name of its thing; null where another field's sentence says it. */
  words?(was: ValueOf<S>, now: ValueOf<S>, t: Telling): string | null;
}
export type Fields = Readonly<Record<string, Field>>;

type ShapeIn<F> = F extends { readonly shape: infer S extends Shape } ? S : never;
/** The type of a thing that has these fields. */
export type Values<F extends Fields> = { readonly [K in keyof F]: ValueOf<ShapeIn<F[K]>> };
/** The names of the fields that a patch may set. */
export type Settable<F extends Fields> = {
  [K in keyof F]: F[K] extends { readonly fixed: true } ? never : K;
}[keyof F];

type More<S extends Shape> = Omit<Field<S>, 'shape'>;
/** Writes a field down: its shape, and what else is to be known of it. */
export const field = <const S extends Shape, const M extends More<S> = object>(
  shape: S,
  more?: M & More<S>,
): { readonly shape: S } & M => ({ shape, ...(more as M) });

/** The fields that a patch may set. */
export const settable = (fields: Fields): readonly [string, Field][] =>
  (Object.entries(fields) as [string, Field][]).filter(([, f]) => !f.fixed);
/** Whether a patch of these fields can break a rule: of the whole session, or of the thing itself. */
export function breaksRules(fields: Fields, patch: object): boolean | 'itself' {
  let reach: boolean | 'itself' = false;
  for (const name of Object.keys(patch)) {
    const known = fields[name];
    if (!known || known.ruled === true) return true;
    if (known.ruled) reach = known.ruled;
  }
  return reach;
}
/** What fields have where they are left out; those without a default are not among them. @param kind of the strip */
export const defaultsOf = (fields: Fields, kind = ''): Record<string, unknown> =>
  Object.fromEntries(
    (Object.entries(fields) as [string, Field][]).flatMap(([name, f]) =>
      f.defaultBy ? [[name, f.defaultBy(kind)]] : f.default === undefined ? [] : [[name, f.default]],
    ),
  );

/** A list of things, or a thing, with what their fields lack filled in. */
export function filledValue(shape: Shape, value: unknown): unknown {
  if (shape.kind === 'oneOf' && typeof value === 'object' && value !== null) {
    const fields = shape.of[String((value as Readonly<Record<string, unknown>>)[shape.by])];
    return fields ? filled(fields, value) : value;
  }
  if (shape.kind === 'object' && typeof value === 'object' && value !== null)
    return filled(shape.fields, value);
  if (
    shape.kind !== 'list' ||
    (shape.of.kind !== 'object' && shape.of.kind !== 'oneOf') ||
    !Array.isArray(value)
  )
    return value;
  const list = value.map((item: unknown) => filledValue(shape.of, item));
  return list.some((item, i) => item !== value[i]) ? list : value;
}
/**
 * A thing that was kept before some of its fields were there, with their defaults. What has all of them is returned as it is.
 */
export function filled<T extends object>(fields: Fields, thing: T): T {
  const has = thing as Readonly<Record<string, unknown>>;
  let patch: Record<string, unknown> | null = null;
  for (const [name, f] of Object.entries(fields)) {
    const value = has[name];
    const next =
      value === undefined
        ? f.defaultBy
          ? f.defaultBy(String(has.kind))
          : f.default
        : filledValue(f.shape, value);
    if (next !== value) (patch ??= {})[name] = next;
  }
  return patch ? { ...thing, ...patch } : thing;
}
