const mean = (v) => (v.length === 0 ? 0 : v.reduce((a, b) => a + b, 0) / v.length);

/** Shares, minutes and calibration of what was played. */
export function summary(results) {
  const share = (f) => results.filter(f).length / results.length;
  const all = results.flatMap((r) => r.steps.map((s) => ({ p: s.p, right: Number(s.rank === 1) })));
  const bins = [0, 1, 2, 3, 4].map((b) => {
    const of = all.filter((s) => Math.min(4, Math.floor(s.p * 5)) === b);
    return { n: of.length, said: mean(of.map((s) => s.p)), right: mean(of.map((s) => s.right)) };
  });
  return {
    cases: results.length,
    first: share((r) => r.first.rank === 1),
    three: share((r) => r.first.rank > 0 && r.first.rank <= 3),
    right: share((r) => r.last.rank === 1),
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

/** Per fault: cases, first from the readings, right at the end, mean minutes. */
export function byFault(results) {
  return [...new Set(results.map((r) => r.fault))].sort().map((fault) => {
    const of = results.filter((r) => r.fault === fault);
    return {
      fault,
      cases: of.length,
      first: of.filter((r) => r.first.rank === 1).length,
      right: of.filter((r) => r.last.rank === 1).length,
      minutes: mean(of.map((r) => r.minutes)),
    };
  });
}
