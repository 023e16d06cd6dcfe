import Joi from '../core/session/fields/joi';

/** What the server is told by its environment. */
export interface Environment {
  readonly DATABASE_URL: string;
  readonly PORT: number;
  readonly ZONULA_HOST: string;
  readonly ZONULA_NAMES: readonly string[];
  readonly ZONULA_DATA: string | undefined;
  readonly ZONULA_CLUSTER: string | undefined;
  readonly ZONULA_NEAR_GB: number;
  readonly ZONULA_DEMO: 'yes' | 'no';
  readonly ZONULA_DEMO_SECONDS: number | undefined;
  readonly ZONULA_LOG: LogLevel;
  readonly ZONULA_HTTPS_PORT: number | undefined;
  readonly ZONULA_CERT: string | undefined;
  readonly ZONULA_KEY: string | undefined;
}
export const LOG_LEVELS = ['silent', 'error', 'warn', 'info', 'debug'] as const;
export type LogLevel = (typeof LOG_LEVELS)[number];

const schema = Joi.object({
  DATABASE_URL: Joi.string()
    .uri({ scheme: ['postgres', 'postgresql'] })
    .required()
    .messages({
      'any.required': 'DATABASE_URL is not set. Run `npm start`: it starts a database of its own',
      'string.empty': 'DATABASE_URL is empty. Run `npm start`: it starts a database of its own',
      // The address may hold a password: it is not said again.
      'string.uri': 'DATABASE_URL is no PostgreSQL address, as in postgres://user@127.0.0.1:5432/zonula',
      'string.uriCustomScheme':
        'DATABASE_URL is no PostgreSQL address, as in postgres://user@127.0.0.1:5432/zonula',
    }),
  PORT: Joi.number().port().empty('').default(4810),
  ZONULA_HOST: Joi.string().empty('').default('127.0.0.1'),
  ZONULA_NAMES: Joi.string().empty('').default(''),
  ZONULA_DATA: Joi.string().empty(''),
  ZONULA_CLUSTER: Joi.string().empty(''),
  ZONULA_NEAR_GB: Joi.number().min(0).max(10_000).empty('').default(10),
  ZONULA_DEMO: Joi.string().valid('yes', 'no').empty('').default('yes'),
  ZONULA_DEMO_SECONDS: Joi.number().min(1).max(3600).empty(''),
  ZONULA_HTTPS_PORT: Joi.number().port().empty(''),
  ZONULA_CERT: Joi.string().empty(''),
  ZONULA_KEY: Joi.string().empty(''),
  ZONULA_LOG: Joi.string()
    .valid(...LOG_LEVELS)
    .empty('')
    .default('warn'),
});

/** The names of what may be set. */
export const ENVIRONMENT: readonly string[] = Object.keys(schema.describe().keys as object);

/**
 * Reads the environment; what does not concern Zonula is passed over.
 * @throws Error that names what is wrong, and what it may be
 */
export function readEnvironment(env: Readonly<Record<string, string | undefined>>): Environment {
  const own = Object.fromEntries(ENVIRONMENT.map((name) => [name, env[name]]));
  const { value, error } = schema.validate(own, { errors: { wrap: { label: false } } });
  if (error) throw new Error(`${error.details[0]!.message}.`);
  const read = value as Omit<Environment, 'ZONULA_NAMES'> & { ZONULA_NAMES: string };
  return { ...read, ZONULA_NAMES: read.ZONULA_NAMES.split(',').filter(Boolean) };
}
