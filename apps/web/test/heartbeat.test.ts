import { expect, test } from '@jest/globals';
import { heartbeat } from '../src/data/heartbeat.ts';

function beating(answers: (n: number) => boolean) {
  let tick = () => {};
  let everyMs = 0;
  let stopped = 0;
  let asked = 0;
  let gone = 0;
  const heart = heartbeat({
    ask: () => {
      asked++;
      if (answers(asked)) heart.heard();
    },
    gone: () => void gone++,
    often: (f, ms) => {
      [tick, everyMs] = [f, ms];
      return () => {
        stopped++;
        tick = () => {};
      };
    },
  });
  return { tick: () => tick(), heart, state: () => ({ asked, gone, stopped }), everyMs: () => everyMs };
}

test('one that answers is there, however long; one lost answer is none', () => {
  const b = beating((n) => n % 2 === 0);
  for (let i = 0; i < 50; i++) b.tick();
  expect(b.state()).toEqual({ asked: 50, gone: 0, stopped: 0 });
});

test('two in a row without an answer: said once, within five seconds of the last word', () => {
  const b = beating(() => false);
  let ticks = 0;
  while (b.state().gone === 0 && ticks < 10) {
    b.tick();
    ticks++;
  }
  expect(ticks * b.everyMs()).toBeLessThanOrEqual(5000);
  expect(b.state()).toEqual({ asked: 2, gone: 1, stopped: 1 });
  b.tick();
  expect(b.state().gone).toBe(1);
});

test('anything that comes counts; stopped it asks nobody', () => {
  const b = beating(() => false);
  b.tick();
  b.tick();
  b.heart.heard();
  b.tick();
  expect(b.state().gone).toBe(0);
  b.heart.stop();
  b.tick();
  expect(b.state().asked).toBe(3);
});
