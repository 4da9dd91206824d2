import type { IncomingMessage } from 'node:http';
import type { INestApplicationContext } from '@nestjs/common';
import { WsAdapter } from '@nestjs/platform-ws';

/** Asks who is there before the socket is opened: a stranger gets a 401, never a 101. */
export class LiveAdapter extends WsAdapter {
  constructor(
    app: INestApplicationContext,
    private readonly admit: (req: IncomingMessage) => Promise<boolean>,
  ) {
    super(app);
  }

  override create(port: number, options?: Record<string, unknown> & { namespace?: string }) {
    return super.create(port, {
      ...options,
      verifyClient: (
        { req }: { req: IncomingMessage },
        done: (ok: boolean, code?: number, message?: string) => void,
      ) => {
        this.admit(req).then(
          (ok) => done(ok, 401, 'sign in first'),
          () => done(false, 503, 'try again'),
        );
      },
    });
  }
}
