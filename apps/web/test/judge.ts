import { expose } from 'comlink';
import { judge } from '../src/job/judgement/diagnosis.worker.ts';

type Heard = (e: { data: unknown }) => void;

/** One end of a wire between a page and its worker; what goes over it is copied, as between threads. */
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
    const copy = JSON.parse(JSON.stringify(data)) as unknown;
    queueMicrotask(() => {
      for (const f of this.other!.hearing) f({ data: copy });
    });
  }
  terminate() {}
}

/** From now on every worker of the page weighs, in this thread, with the core itself. */
export function weighHere(): void {
  Object.assign(globalThis, {
    Worker: class extends End {
      constructor() {
        super();
        const inside = new End();
        inside.other = this;
        this.other = inside;
        expose(judge, inside as never);
      }
    },
  });
}
