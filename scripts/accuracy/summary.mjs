const mean = (v) => (v.length === 0 ? 0 : v.reduce((a, b) => a + b, 0) / v.length);

/** Edges of what the first cause is said to be: the last two are what a technician acts on. */
const BINS = [0, 0.2, 0.4, 0.6, 0.85, 0.95, 1.01];
export const BIN_NAMES = BINS.slice(1).map((high, i) => `${100 * BINS[i]}–${Math.min(100, 100 * high)} %`);
/** Sure: what is acted on. */
const SURE = 0.85;
/** A true fault given less than this has been given up: bits count no further down. */
const LEAST = 1e-4;

/** Shares, minutes and calibration of what was played. */
export function summary(results) {
  const share = (f) => results.filter(f).length / results.length;
  const all = results.flatMap((r) => r.steps.map((s) => ({ p: s.p, right: Number(s.rank === 1) })));
  const bins = BINS.slice(1).map((high, b) => {
    const of = all.filter((s) => s.p >= BINS[b] && s.p < high);
    return { n: of.length, said: mean(of.map((s) => s.p)), right: mean(of.map((s) => s.right)) };
  });
  const sure = results.filter((r) => r.last.p >= SURE);
  return {
    cases: results.length,
    first: share((r) => r.first.rank === 1),
    tied: share((r) => r.first.rank === 1 || r.first.tied),
    three: share((r) => r.first.rank > 0 && r.first.rank <= 3),
    five: share((r) => r.first.rank > 0 && r.first.rank <= 5),
    right: share((r) => r.last.rank === 1),
    sure: sure.length / results.length,
    sureRight: mean(sure.map((r) => Number(r.last.rank === 1))),
    minutes: mean(results.map((r) => r.minutes)),
    tests: mean(results.map((r) => r.tests)),
    ece: bins.reduce((e, b) => e + (b.n / all.length) * Math.abs(b.said - b.right), 0),
    bins,
  };
}

/** `wrong → said instead`, with how often. */
export function confused(results) {
  const wrong = new Map();
  for (const r of results)
    if (r.last.rank !== 1) wrong.set(`${r.fault} → ${r.last.top}`, (wrong.get(`${r.fault} → ${r.last.top}`) ?? 0) + 1);
  return [...wrong].sort((a, b) => b[1] - a[1]);
}

/** Per fault, or per whatever `key` names: cases, first from the readings, right at the end, mean minutes. */
export function byKey(results, key = 'fault') {
  return [...new Set(results.map((r) => r[key]))].sort().map((name) => {
    const of = results.filter((r) => r[key] === name);
    return {
      name,
      cases: of.length,
      first: of.filter((r) => r.first.rank === 1).length,
      right: of.filter((r) => r.last.rank === 1).length,
      minutes: mean(of.map((r) => r.minutes)),
    };
  });
}

/** Per test: how often it was asked, the bits promised for it, and the bits it gave towards the true fault, on average. */
export function bits(results) {
  const asked = new Map();
  for (const r of results)
    r.steps.forEach((s, i) => {
      const after = r.steps[i + 1];
      if (!s.asked || !after) return;
      const gave = Math.log2(Math.max(after.truth, LEAST) / Math.max(s.truth, LEAST));
      const of = asked.get(s.asked) ?? [];
      of.push([s.promised, gave]);
      asked.set(s.asked, of);
    });
  return [...asked]
    .map(([test, of]) => ({
      test,
      times: of.length,
      promised: mean(of.map((x) => x[0])),
      gave: mean(of.map((x) => x[1])),
    }))
    .sort((a, b) => b.times - a.times);
}
