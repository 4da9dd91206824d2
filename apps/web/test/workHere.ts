import { expose } from 'comlink';

type Heard = (e: { data: unknown }) => void;

/** A copy, as between threads; arrays of numbers stay arrays of numbers. */
function copied(v: unknown): unknown {
  if (ArrayBuffer.isView(v)) return (v as Float64Array).slice();
  if (Array.isArray(v)) return v.map(copied);
  if (v === null || typeof v !== 'object') return v;
  return Object.fromEntries(Object.entries(v).flatMap(([k, x]) => (x === undefined ? [] : [[k, copied(x)]])));
}

/** One end of a wire between a page and its worker. */
class End {
  private readonly hearing = new Set<Heard>();
  other: End | null = null;
  addEventListener(_: string, f: Heard) {
    this.hearing.add(f);
  }
  removeEventListener(_: string, f: Heard) {
    this.hearing.delete(f);
  }
  postMessage(data: unknown) {
    const copy = copied(data);
    queueMicrotask(() => {
      for (const f of this.other!.hearing) f({ data: copy });
    });
  }
  start() {}
  terminate() {}
}

/** From now on the page's workers work in this thread, each with what it exposes; by the name of its file. */
export function workHere(workers: Readonly<Record<string, object>>): void {
  Object.assign(globalThis, {
    Worker: class extends End {
      constructor(address: URL | string) {
        super();
        const name = String(address).split('/').at(-1)!;
        const exposed = workers[name];
        if (!exposed) throw new Error(`no worker: ${name}`);
        const inside = new End();
        inside.other = this;
        this.other = inside;
        expose(exposed, inside as never);
      }
    },
  });
}
