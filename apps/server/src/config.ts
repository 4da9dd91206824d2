import { readFileSync } from 'node:fs';

/** Everything the server reads from its environment, once, at start. */
export interface ServerConfig {
  port: number;
  host: string;
  /** Nobody but this machine reaches it. */
  loopback: boolean;
  dbUrl: string;
  demo: boolean;
  /** File of a year of demo jobs beside the few fixed ones. */
  demoYear: string | null;
  /** This start created the database: demo data may be seeded. */
  mayseed: boolean;
  sim: { port: number; controlPort: number; token: string } | null;
  linkAllow: string[];
  /** Names it is asked by besides its address, localhost and those of its certificate. */
  hosts: string[];
  behindTls: boolean;
  /** Own certificate and key, PEM files. */
  tls: { cert: Buffer; key: Buffer } | null;
  webDir: string | null;
  logLevel: string;
}

export class ConfigError extends Error {}

function port(env: NodeJS.ProcessEnv, name: string, fallback: number): number {
  const raw = env[name];
  if (raw === undefined || raw === '') return fallback;
  const n = Number(raw);
  if (!Number.isInteger(n) || n < 0 || n > 65_535) throw new ConfigError(`${name}: "${raw}" is not a port (0–65535)`);
  return n;
}

const listed = (text: string | undefined) =>
  (text ?? '')
    .split(',')
    .map((s) => s.trim())
    .filter(Boolean);

function readTls(env: NodeJS.ProcessEnv): ServerConfig['tls'] {
  const { JB_TLS_CERT: cert, JB_TLS_KEY: key } = env;
  if (!cert && !key) return null;
  if (!cert || !key) throw new ConfigError('JB_TLS_CERT and JB_TLS_KEY: both are needed');
  const read = (name: string, path: string) => {
    try {
      return readFileSync(path);
    } catch (e) {
      throw new ConfigError(`${name}: ${(e as Error).message}`);
    }
  };
  return { cert: read('JB_TLS_CERT', cert), key: read('JB_TLS_KEY', key) };
}

/** Read and check the environment. Throws ConfigError naming the variable. */
export function readConfig(env: NodeJS.ProcessEnv): ServerConfig {
  const host = env.JB_HOST ?? '127.0.0.1';
  const loopback = host === '127.0.0.1' || host === 'localhost' || host === '::1';
  const behindTls = env.JB_BEHIND_TLS === '1';
  const tls = readTls(env);
  if (!loopback && !behindTls && !tls) {
    throw new ConfigError(
      'JB_HOST: off loopback TLS is required: set JB_TLS_CERT and JB_TLS_KEY, or put a TLS proxy in front and set JB_BEHIND_TLS=1',
    );
  }
  if (!env.JB_DB_URL) throw new ConfigError('JB_DB_URL: missing; npm start sets it');
  const token = env.JB_SIM_TOKEN;
  return {
    port: port(env, 'JB_PORT', 4300),
    host,
    loopback,
    dbUrl: env.JB_DB_URL,
    demo: loopback && env.JB_DEMO === '1',
    demoYear: env.JB_DEMO_YEAR_FILE || null,
    mayseed: env.JB_DB_CREATED === '1',
    sim: token
      ? { port: port(env, 'JB_SIM_PORT', 4320), controlPort: port(env, 'JB_SIM_CONTROL_PORT', 4321), token }
      : null,
    linkAllow: listed(env.JB_LINK_ALLOW),
    hosts: listed(env.JB_HOSTS),
    behindTls,
    tls,
    webDir: env.JB_WEB_DIR ?? null,
    logLevel: env.JB_LOG ?? 'info',
  };
}

export const CONFIG = Symbol('config');
