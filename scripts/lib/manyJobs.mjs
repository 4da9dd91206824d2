/**
 * A logbook of many jobs, made by the database itself from a running number: for the bench and the tests of the search.
 * Invented. `sql` is a connection of the mariadb package; `perJob` other words that each job has.
 */
const PEOPLE = ['R. Okafor', 'I. Sato', 'M. Duarte', 'A. Lund', 'P. Moreau', 'T. Varga'];
const MODELS = [
  'Quillon 1.8',
  'Aldwin 3.0 V6',
  'Dunmore 1.6',
  'Pelora 2.4',
  'Tarn 2.0',
  'Marl 2.0',
  'Ashby 1.4',
  'Corran 2.2',
];
const COLOURS = ['green hatch', 'grey estate', 'white van', 'blue saloon', 'red coupe', 'black pickup', 'silver wagon'];
const CODES = ['P0171', 'P0172', 'P0101', 'P0300', 'P0420', 'P0442', 'P0106', 'P0113', 'P0128', 'P0135'];
const CAUSES = [
  'vac-leak',
  'crankcase-leak',
  'maf-dirty',
  'fuel-low',
  'duct-leak',
  'purge-open',
  'throttle-fouled',
  'o2-slow',
  'exhaust-leak',
  'injector-leaking',
];
const PARTS = [
  'intake gasket',
  'crankcase hose',
  'airflow sensor',
  'fuel pump',
  'intake duct',
  'purge valve',
  'throttle gasket',
  'oxygen sensor',
];
const WORDS = [
  'hesitates',
  'shakes',
  'stalls',
  'lamp',
  'hill',
  'motorway',
  'cold',
  'warm',
  'whistle',
  'smell',
  'smoke',
  'weak',
  'surges',
  'loud',
  'heater',
  'lights',
  'parking',
  'morning',
  'rain',
  'towing',
];

const CHUNK = 5000;

/** The value that a running number falls on, by a stride of its own so that lists do not go in step. */
const pick = (list, stride, shift = 0) =>
  `ELT(1 + MOD(FLOOR(n * ${stride}) + ${shift}, ${list.length}), ${list.map((v) => `'${v}'`).join(', ')})`;
const vin = (n) => `CONCAT('ZZZQ', UPPER(LPAD(HEX(${n}), 5, '0')), 'M', LPAD(${n}, 7, '0'))`;
const uuid = (what, n) =>
  `LOWER(CONCAT('${what}', LPAD(HEX(${n}), 7, '0'), '-5c1e-7000-8000-', LPAD(HEX(${n}), 12, '0')))`;
/** The car of a job. */
const CAR = '(1 + MOD(n, 9973))';

/** Jobs, vehicles and tags; the newest was opened at `until`, one every ten minutes before it. */
export async function fillLogbook(sql, { shopId, count, until = new Date(), open = 0 }) {
  const seq = `(SELECT seq AS n FROM seq_1_to_${count}) s`;
  const at = `TIMESTAMPADD(MINUTE, -10 * CAST(${count} - CAST(n AS SIGNED) AS SIGNED), '${until.toISOString().slice(0, 19).replace('T', ' ')}')`;
  const job = uuid('b', 'n');
  const car =
    "LOWER(CONCAT('a', LPAD(HEX(1 + MOD(n, 9973)), 7, '0'), '-5c1e-7000-8000-', LPAD(HEX(1 + MOD(n, 9973)), 12, '0')))";
  const model = pick(MODELS, 1.37);
  const colour = pick(COLOURS, 2.11);
  const who = pick(PEOPLE, 0.61);
  const cause = pick(CAUSES, 3.3);
  const cars = Math.min(count, 9973);
  await sql.query('SET foreign_key_checks = 0, unique_checks = 0');
  // Sorted once at the end rather than row by row.
  await sql.query('ALTER TABLE job_tag DROP INDEX found');
  await sql.query(
    `INSERT INTO vehicle (id, shopId, createdAt, rev, data) SELECT ${uuid('a', 'n')}, ?, ${at}, 1, JSON_OBJECT('label', ${model}, 'note', ${colour}, 'vin', ${vin('n')}, 'fuel', 'petrol', 'metering', 'maf', 'displacementL', 2, 'cylinders', 4) FROM (SELECT seq AS n FROM seq_1_to_${cars}) s`,
    [shopId],
  );
  const standing = `JSON_OBJECT('station', 'hand-over', 'next', JSON_OBJECT('station', 'hand-over', 'title', 'handed over', 'why', ''), 'stations', JSON_ARRAY(), 'work', NULL, 'worst', JSON_OBJECT('totalPct', CAST(MOD(n, 31) AS SIGNED) - 6, 'at', 'idle'), 'proof', JSON_OBJECT('verdict', 'proven', 'remains', JSON_ARRAY()))`;
  const summary = `JSON_OBJECT('label', ${model}, 'note', ${colour}, 'plate', NULL, 'standing', ${standing}, 'counts', JSON_OBJECT('records', 1, 'recordsAfter', 0, 'before', 2, 'after', 2, 'tests', 1, 'repairs', 1), 'leading', JSON_OBJECT('fault', ${cause}, 'probability', 0.8), 'waits', JSON_ARRAY(), 'hands', ${who}, 'found', JSON_OBJECT('cause', ${cause}, 'codes', JSON_ARRAY(${pick(CODES, 1.73)})))`;
  await sql.query(
    `INSERT INTO job (id, shopId, createdAt, rev, vehicleId, status, complaint, ambient, adapter, practice, filed, openedBy, summary, changes) SELECT ${job}, ?, ${at}, 1, ${car}, IF(n > ${count - open}, 'open', 'closed'), JSON_OBJECT('symptoms', JSON_ARRAY('rough-idle'), 'story', ${pick(WORDS, 1.9)}), '{}', NULL, 0, 1, ${who}, ${summary}, 1 FROM ${seq}`,
    [shopId],
  );
  const tags = [
    ['vehicle', car],
    ['family', `CONCAT('petrol ', 1 + MOD(n, 4), '.0 L, 4 cylinders, maf, na, port')`],
    ['code', pick(CODES, 1.73)],
    ['cause', cause],
    ['part', pick(PARTS, 2.9)],
    ['person', who],
    ['verdict', "'proven'"],
    ['status', `IF(n > ${count - open}, 'open', 'closed')`],
    ['word', pick(WORDS, 1.9)],
    ['word', pick(WORDS, 2.9, 7)],
    ['word', `LOWER(SUBSTRING_INDEX(${model}, ' ', 1))`],
    ['word', `LOWER(SUBSTRING_INDEX(${colour}, ' ', 1))`],
    ['word', `LOWER(SUBSTRING_INDEX(${colour}, ' ', -1))`],
    ['word', `LOWER(SUBSTRING_INDEX(${who}, ' ', -1))`],
    ['word', `LOWER(${pick(CODES, 1.73)})`],
    ['word', `LOWER(${vin(CAR)})`],
    ['word', "CONCAT('plate', n)"],
  ];
  // In the order of the table's own key, a stretch at a time: what is written fits into memory.
  for (let from = 1; from <= count; from += CHUNK) {
    const to = Math.min(count, from + CHUNK - 1);
    const rows = tags.map(
      ([kind, value]) =>
        `SELECT ${job} AS jobId, '${kind}' AS kind, ${value} AS value, '${shopId}', ${at} FROM (SELECT seq AS n FROM seq_${from}_to_${to}) s`,
    );
    await sql.query(`INSERT IGNORE INTO job_tag (jobId, kind, value, shopId, createdAt) ${rows.join(' UNION ALL ')}`);
  }
  await sql.query('ALTER TABLE job_tag ADD INDEX found (shopId, kind, value, createdAt, jobId)');
  await sql.query(
    "INSERT IGNORE INTO shop_word (shopId, word) SELECT DISTINCT shopId, value FROM job_tag WHERE shopId = ? AND kind = 'word'",
    [shopId],
  );
  await sql.query('SET foreign_key_checks = 1, unique_checks = 1');
  await sql.query('ANALYZE TABLE job, job_tag, vehicle');
}

/** A VIN of the made cars. */
export const vinOf = (n) => `ZZZQ${n.toString(16).toUpperCase().padStart(5, '0')}M${String(n).padStart(7, '0')}`;
