import { connect, createServer, type Socket } from 'node:net';

/** A network between one tablet and the server, in the test's hands. */
export interface Network {
  /** The server, as this tablet knows it. */
  base: string;
  /** As it should be. */
  through(): void;
  /** Every line broken, none taken up. */
  cut(): void;
  /** The edge of the house: lines stay open, nothing comes through, new ones hang. */
  freeze(): void;
  close(): Promise<void>;
}

/** A relay in front of a server on loopback. */
export async function network(server: string): Promise<Network> {
  const port = Number(new URL(server).port);
  let state: 'through' | 'cut' | 'frozen' = 'through';
  const lines = new Set<[Socket, Socket]>();
  const relay = createServer((tablet) => {
    tablet.on('error', () => {});
    if (state === 'cut') {
      tablet.destroy();
      return;
    }
    const shop = connect(port, '127.0.0.1');
    shop.on('error', () => tablet.destroy());
    const line: [Socket, Socket] = [tablet, shop];
    lines.add(line);
    const ended = () => {
      lines.delete(line);
      tablet.destroy();
      shop.destroy();
    };
    tablet.on('close', ended);
    shop.on('close', ended);
    tablet.pipe(shop);
    shop.pipe(tablet);
    if (state === 'frozen') for (const s of line) s.pause();
  });
  await new Promise<void>((done) => relay.listen(0, '127.0.0.1', done));
  const address = relay.address() as { port: number };
  return {
    base: `http://127.0.0.1:${address.port}`,
    through() {
      // What a frozen network held is long given up: such lines come to nothing.
      if (state === 'frozen') for (const [tablet] of lines) tablet.destroy();
      state = 'through';
    },
    cut() {
      state = 'cut';
      for (const [tablet] of lines) tablet.destroy();
    },
    freeze() {
      state = 'frozen';
      for (const line of lines) for (const s of line) s.pause();
    },
    async close() {
      state = 'cut';
      for (const [tablet] of lines) tablet.destroy();
      await new Promise<void>((done) => relay.close(() => done()));
    },
  };
}
