import { MOST_FILE_BYTES } from './bounds.ts';

export interface Prepared {
  bytes: ArrayBuffer;
  width: number;
  height: number;
}

type Answer = { id: number } & (({ ok: true } & Prepared) | { ok: false });

let worker: Worker | null = null;
let last = 0;
const asked = new Map<number, (a: Answer) => void>();

/** Throws what to do where the file is no picture. */
export async function preparePhoto(file: Blob): Promise<Prepared> {
  if (file.size > MOST_FILE_BYTES) throw new Error('The picture is larger than 40 MB: take it smaller.');
  if (!worker) {
    worker = new Worker(new URL('./prepare.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = (e: MessageEvent<Answer>) => {
      asked.get(e.data.id)?.(e.data);
      asked.delete(e.data.id);
    };
  }
  last += 1;
  const id = last;
  const answer = await new Promise<Answer>((resolve) => {
    asked.set(id, resolve);
    worker!.postMessage({ id, file });
  });
  if (!answer.ok) throw new Error('This file is no picture that can be read here: JPEG, PNG or WebP.');
  return answer;
}
