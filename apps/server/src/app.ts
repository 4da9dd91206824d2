import 'reflect-metadata';
import { existsSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { CLOCK_HEADER } from '@just-balance/contract';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Sequelize } from 'sequelize';
import { openDemoDoors } from './accounts/demoDoors.ts';
import { SetupToken } from './accounts/setup.ts';
import { AppModule } from './app.module.ts';
import { ErrorFilter, unreadable } from './common/errors.ts';
import { Origin } from './common/origin.ts';
import { validation } from './common/validation.ts';
import { ConfigError, type ServerConfig } from './config.ts';
import { connectDatabase } from './database/connect.ts';
import { seedDemo } from './demo/seed.ts';
import { makeLogger } from './logger.ts';
import { LiveAdapter } from './sockets/live.adapter.ts';
import { LiveGateway } from './sockets/live.gateway.ts';

const KEEP_ALIVE_MS = 65_000;

export interface RunningApp {
  app: NestExpressApplication;
  sequelize: Sequelize;
  setupToken: string | null;
  close(): Promise<void>;
}

/** Connect, migrate, seed where allowed, and build the application; `listen` is the caller's. */
export async function createApp(
  config: ServerConfig,
  logger: Logger = makeLogger(config.logLevel),
): Promise<RunningApp> {
  const sequelize = await connectDatabase(config.dbUrl);
  if (!config.loopback) {
    const open = await openDemoDoors();
    if (open.length > 0) {
      await sequelize.close();
      throw new ConfigError(
        `JB_HOST: this database still has demo accounts with their published passwords (${open.join(', ')}). Start it on 127.0.0.1, give them other passwords or shut them out under People, or use another JB_DATA_DIR.`,
      );
    }
  }
  if (config.demo && config.mayseed && (await seedDemo(sequelize, config.demoYear))) logger.info('demo shop seeded');
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config, sequelize, logger), {
    logger: false,
    bodyParser: false,
    ...(config.tls ? { httpsOptions: config.tls } : {}),
  });
  app.use(
    pinoHttp({
      logger,
      autoLogging: { ignore: (req) => req.url === '/api/health' },
      serializers: {
        req: (r: { method: string; url: string }) => ({ method: r.method, url: r.url }),
        res: (r: { statusCode: number }) => ({ status: r.statusCode }),
      },
    }),
  );
  const origin = app.get(Origin);
  app.use((req: Request, res: Response, next: NextFunction) => {
    if (origin.isOurHost(req)) return next();
    res.status(421).json({
      statusCode: 421,
      message: 'this server is not asked by that name: use its address, or list the name in JB_HOSTS',
    });
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          fontSrc: ["'self'"],
          imgSrc: ["'self'", 'data:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          manifestSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'self'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: config.behindTls || config.tls !== null,
    }),
  );
  // Nothing of the API is kept by a browser or a proxy, unless a route says so itself.
  app.use('/api', (_: Request, res: Response, next: NextFunction) => {
    res.setHeader('cache-control', 'no-store');
    res.setHeader(CLOCK_HEADER, String(Date.now()));
    next();
  });
  app.use(unreadable);
  app.set('trust proxy', config.behindTls ? 1 : false);
  app.setGlobalPrefix('api');
  app.useGlobalPipes(validation());
  app.useGlobalFilters(new ErrorFilter(logger));
  app.useWebSocketAdapter(new LiveAdapter(app, (req) => app.get(LiveGateway).admit(req)));
  const description = SwaggerModule.createDocument(
    app,
    new DocumentBuilder().setTitle('Just Balance').setVersion('1').addCookieAuth('jb_session').build(),
  );
  app.use('/api/openapi.json', (_: Request, res: Response) => res.json(description));
  if (config.webDir) serveWeb(app, config.webDir);
  const setup = app.get(SetupToken);
  const setupToken = (await setup.needed()) ? setup.issue() : null;
  await app.init();
  // A tablet asks again within a minute: the connection of before must not close under its next request.
  Object.assign(app.getHttpServer() as Server, {
    keepAliveTimeout: KEEP_ALIVE_MS,
    headersTimeout: KEEP_ALIVE_MS + 1000,
  });
  return {
    app,
    sequelize,
    setupToken,
    async close() {
      await app.close();
      await sequelize.close();
    },
  };
}

/** The built page; unknown paths get index.html, except under /api and /ws. */
function serveWeb(app: NestExpressApplication, dir: string) {
  const index = join(dir, 'index.html');
  app.use(
    express.static(dir, {
      index: false,
      setHeaders: (res, path) =>
        res.setHeader('cache-control', path.includes('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache'),
    }),
  );
  app.use((req: Request, res: Response, next: NextFunction) => {
    if (!['GET', 'HEAD'].includes(req.method) || /^\/(api|ws)(\/|$)/.test(req.path)) return next();
    if (!existsSync(index)) return res.status(503).send('The page is not built: npm run build');
    res.setHeader('cache-control', 'no-cache');
    res.sendFile(index);
  });
}
