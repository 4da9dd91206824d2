import { describe, expect, test } from '@jest/globals';
import { AdapterShell, PLANS, type Sample, type ShellClock } from '../src/link/index.ts';

/** Time by hand. */
class Clock implements ShellClock {
  ms = 0;
  private readonly due = new Set<{ at: number; f: () => void; every: number | null }>();
  nowUs = () => this.ms * 1000;
  after = (f: () => void, ms: number) => this.add({ at: this.ms + ms, f, every: null });
  repeat = (f: () => void, ms: number) => this.add({ at: this.ms + ms, f, every: ms });
  private add(d: { at: number; f: () => void; every: number | null }) {
    this.due.add(d);
    return () => void this.due.delete(d);
  }
  get waiting() {
    return this.due.size;
  }
  pass(ms: number) {
    const until = this.ms + ms;
    for (;;) {
      const next = [...this.due].filter((d) => d.at <= until).sort((a, b) => a.at - b.at)[0];
      if (!next) break;
      this.ms = next.at;
      if (next.every === null) this.due.delete(next);
      else next.at += next.every;
      next.f();
    }
    this.ms = until;
  }
}

function bench() {
  const clock = new Clock();
  const written: string[] = [];
  const dropped: string[] = [];
  const states: string[] = [];
  const samples: Sample[] = [];
  let opens = 0;
  let ticks = 0;
  const shell = new AdapterShell(
    {
      open: () => {
        opens++;
      },
      write: (t) => void written.push(t),
      drop: (r) => void dropped.push(r),
      ticked: () => {
        ticks++;
      },
    },
    clock,
    PLANS.mixture,
    { samples: (s) => void samples.push(...s), state: (s, d) => void states.push(`${s}: ${d}`) },
  );
  const counts = () => ({ opens, ticks });
  return { clock, shell, written, dropped, states, samples, counts };
}

describe('the link over any port', () => {
  test('opens the channel at 500 kbit/s and asks all units what they have', () => {
    const b = bench();
    b.shell.open('port 1');
    expect(b.states).toEqual(['connecting: port 1']);
    expect(b.written).toEqual([]);
    b.shell.opened();
    b.clock.pass(600);
    // slcan: S6 is 500 kbit/s, O opens (Lawicel's manual); ISO 15765-4: 7DF asks all, service 01 parameter 00.
    expect(b.written.join('')).toMatch(/^C\rS6\rO\r.*t7DF8020100/s);
    expect(b.counts().ticks).toBe(60);
  });

  test('a lost connection is said with its reason, and tried again every 2 s with the same plan', () => {
    const b = bench();
    b.shell.open('port 1');
    b.shell.opened();
    b.shell.poll(PLANS.road);
    b.shell.lost('unplugged', 'port 1');
    expect(b.states.at(-1)).toBe('lost: unplugged; trying again every 2 s');
    b.clock.pass(1_999);
    expect(b.counts().opens).toBe(1);
    b.clock.pass(1);
    expect(b.counts().opens).toBe(2);
    expect(b.states.at(-1)).toBe('connecting: unplugged');
    const before = b.counts().ticks;
    b.shell.opened();
    b.clock.pass(100);
    expect(b.counts().ticks).toBe(before + 10);
  });

  test('no tick outlives its connection, and a second loss does not open twice', () => {
    const b = bench();
    b.shell.open('port 1');
    b.shell.opened();
    b.shell.lost('once', 'port 1');
    b.shell.lost('twice', 'port 1');
    expect(b.clock.waiting).toBe(1);
    b.clock.pass(2_000);
    expect(b.counts()).toEqual({ opens: 2, ticks: 0 });
  });

  test('what is asked is answered with nothing: after its time, by a loss, by the end', async () => {
    const b = bench();
    b.shell.open('port 1');
    b.shell.opened();
    const late = b.shell.ask([0x01, 0x01]);
    b.clock.pass(10_000);
    await expect(late).resolves.toEqual([]);
    const lost = b.shell.ask([0x03]);
    b.shell.lost('unplugged', 'port 1');
    await expect(lost).resolves.toEqual([]);
    const ended = b.shell.clear();
    b.shell.close();
    await expect(ended).resolves.toEqual([]);
    await expect(b.shell.ask([0x03])).resolves.toEqual([]);
    b.clock.pass(60_000);
    expect([b.counts().opens, b.clock.waiting]).toEqual([1, 0]);
  });

  test('once over nothing begins: no connection, no conversation, no word', () => {
    const b = bench();
    b.shell.close();
    const said = b.states.length;
    b.shell.open('port 1');
    b.shell.opened();
    b.shell.bytes('t7E8806410000000000\r');
    b.shell.lost('gone', 'port 1');
    b.clock.pass(60_000);
    expect([b.counts().opens, b.written, b.states.length]).toEqual([0, [], said]);
  });
});
