import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { rawShapeProblem, shapeProblem } from '@just-balance/contract';
import {
  BadRequestException,
  type CanActivate,
  type ExecutionContext,
  HttpException,
  Injectable,
  PayloadTooLargeException,
  SetMetadata,
} from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import express, { type Response } from 'express';
import { badFields } from './errors.ts';
import type { AuthedRequest } from './request.ts';

/** What a route takes instead of JSON. */
interface BytesTaken {
  types: string[];
  /** Bytes of one body. */
  most: number;
  /** Kept in a file of its own until the answer is out: too large to be held. */
  inFile: boolean;
}

const TAKES = 'takes';
const MIB = 1024 * 1024;
/** JSON of who is signed in, and of who is not yet. [house] */
const JSON_MOST = '1mb';
const STRANGERS_MOST = '16kb';
/** Bodies of bytes that are in memory at one time, all together: more are asked to come again. [house] */
const HELD_MOST = 96 * MIB;

/** The route's body is bytes: `req.body` is a Buffer. */
export const TakesBytes = (most: number, ...types: string[]) =>
  SetMetadata(TAKES, { most, types: [...types, 'application/octet-stream'], inFile: false } satisfies BytesTaken);
/** The route's body is a large file: `req.body` is a SentFile, gone once the answer is out. */
export const TakesFile = (most: number, ...types: string[]) =>
  SetMetadata(TAKES, { most, types: [...types, 'application/octet-stream'], inFile: true } satisfies BytesTaken);

/** A body as a file in a folder of its own, which goes with the answer. */
export class SentFile {
  constructor(
    readonly dir: string,
    readonly path: string,
    readonly sha256: string,
  ) {}
}

/** The bytes of a body are not worth parsing. */
class BadShape extends Error {
  readonly type = 'shape';
}

function verify(_: unknown, __: unknown, raw: Buffer): void {
  const problem = rawShapeProblem(raw);
  if (problem) throw new BadShape(problem);
}

const member = express.json({ limit: JSON_MOST, verify });
const stranger = express.json({ limit: STRANGERS_MOST, verify });

/**
 * Reads the body, once it is known who sends it and that they may: the guards before this one let nobody else through.
 * What a route takes, it says itself.
 */
@Injectable()
export class BodyGuard implements CanActivate {
  private held = 0;

  constructor(private readonly reflector: Reflector) {}

  async canActivate(ctx: ExecutionContext): Promise<boolean> {
    if (ctx.getType() !== 'http') return true;
    const http = ctx.switchToHttp();
    const req = http.getRequest<AuthedRequest>();
    const res = http.getResponse<Response>();
    const bytes = this.reflector.get<BytesTaken | undefined>(TAKES, ctx.getHandler());
    if (!bytes) await this.json(req, res);
    else if (bytes.inFile) await inFile(req, res, bytes);
    else await this.bytes(req, res, bytes);
    return true;
  }

  private async json(req: AuthedRequest, res: Response): Promise<void> {
    await parsed(req.actor ? member : stranger, req, res);
    const body: unknown = req.body;
    if (body === undefined) return;
    const problem =
      body === null || typeof body !== 'object' || Array.isArray(body)
        ? { field: 'the body', message: 'must be a JSON object' }
        : shapeProblem(body);
    if (problem) throw badFields([{ ...problem, field: problem.field || 'the body' }]);
  }

  private async bytes(req: AuthedRequest, res: Response, { types, most }: BytesTaken): Promise<void> {
    const said = Number(req.headers['content-length'] ?? most);
    const mine = said >= 0 && said <= most ? said : most;
    if (this.held + mine > HELD_MOST) {
      res.setHeader('retry-after', '2');
      throw new HttpException({ statusCode: 503, message: 'many pictures are coming up just now: try again' }, 503);
    }
    this.held += mine;
    res.once('close', () => {
      this.held -= mine;
    });
    await parsed(express.raw({ type: types, limit: most }), req, res);
  }
}

function parsed(parser: ReturnType<typeof express.json>, req: AuthedRequest, res: Response): Promise<void> {
  return new Promise((done, failed) => parser(req, res, (e?: unknown) => (e ? failed(refusal(e)) : done())));
}

/** What the parsers refuse, in our words. */
function refusal(error: unknown): HttpException {
  const { type, message = '', status = 400 } = error as { type?: string; message?: string; status?: number };
  if (type === 'entity.too.large')
    return new PayloadTooLargeException({
      statusCode: 413,
      message:
        'too large: at most 1 MB, 16 kB before signing in, a column of an import 8 MB, a picture 12 MB, an archive 160 MB',
    });
  if (type === 'shape') return new BadRequestException({ statusCode: 400, message: `the body: ${message}` });
  if (type === 'entity.parse.failed')
    return new BadRequestException({ statusCode: 400, message: `the body is not JSON: ${message}` });
  const code = status >= 400 && status < 500 ? status : 400;
  return new HttpException({ statusCode: code, message: `the request cannot be read: ${message}`.trim() }, code);
}

async function inFile(req: AuthedRequest, res: Response, { types, most }: BytesTaken): Promise<void> {
  if (!req.is(types)) return;
  const tooLarge = () =>
    new PayloadTooLargeException({ statusCode: 413, message: `too large: at most ${most / 1_000_000} MB` });
  if (Number(req.headers['content-length'] ?? 0) > most) throw tooLarge();
  const dir = await mkdtemp(join(tmpdir(), 'jb-sent-'));
  const gone = () => void rm(dir, { recursive: true, force: true }).catch(() => {});
  if (res.destroyed || res.writableEnded) gone();
  else res.once('close', gone);
  const path = join(dir, 'body');
  let n = 0;
  const hash = createHash('sha256');
  const counted = new Transform({
    transform(chunk: Buffer, _, done) {
      n += chunk.length;
      hash.update(chunk);
      if (n > most) done(tooLarge());
      else done(null, chunk);
    },
  });
  // Piped by hand: a body that is refused is read to its end and forgotten, so that the refusal can be heard.
  const cut = () => counted.destroy(new Error('cut off'));
  req.once('aborted', cut).once('error', cut);
  try {
    await pipeline(req.pipe(counted), createWriteStream(path));
  } catch (e) {
    req.unpipe(counted);
    req.resume();
    throw e instanceof HttpException
      ? e
      : new BadRequestException({ statusCode: 400, message: 'the file did not come up whole: send it again' });
  }
  req.body = new SentFile(dir, path, hash.digest('hex'));
}
