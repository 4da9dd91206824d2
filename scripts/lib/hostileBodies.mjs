/**
 * Bodies that no client of ours sends: what JSON can hold, and what each kind of upload can. The tests of the API put
 * each on every route; the bench does it to a server of its own and looks at its health and its memory meanwhile.
 */
import { createHash } from 'node:crypto';
import { deflateRawSync, deflateSync } from 'node:zlib';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';

const MIB = 1024 * 1024;
const deep = (n) => '['.repeat(n) + ']'.repeat(n);
const many = (n, line) => Array.from({ length: n }, (_, i) => line(i)).join('\n');

/** [what, text]: as application/json. */
export const JSON_BODIES = [
  ['null', 'null'],
  ['a list', '[]'],
  ['a number', '1'],
  ['a text', '"x"'],
  ['cut short', '{"id":'],
  ['nested', `{"complaint":${deep(3000)}}`],
  ['nested in a list', deep(400_000)],
  ['many values', `{"x":[${'1,'.repeat(100_000)}1]}`],
  [
    'many keys',
    `{"reading":{"at":"idle","quantum":{${Array.from({ length: 60_000 }, (_, i) => `"k${i}":1`).join(',')}}}}`,
  ],
  ['a name of the language', '{"__proto__":{"role":"lead"},"constructor":{"prototype":{}}}'],
  [
    'lists for objects',
    '{"id":[],"vehicle":[],"complaint":[],"ambient":[],"reading":[],"test":[],"settings":[],"summary":[],"parts":[],"data":[]}',
  ],
  [
    'lists in lists',
    '{"complaint":{"symptoms":[[]],"recentWork":[[]],"when":[[]]},"readings":[[]],"marks":[[]],"stored":[[]]}',
  ],
  [
    'nulls',
    '{"id":null,"vehicle":null,"complaint":null,"rev":null,"reading":null,"test":null,"command":null,"data":null,"low":null}',
  ],
  ['objects for texts', '{"id":{},"email":{},"password":{},"text":{},"token":{},"name":{},"caution":{},"at":{}}'],
  ['half a character', '{"id":"\\ud83d","text":"\\ud83d","caution":"\\ude00","name":"\\ud83d","story":"\\ud83d"}'],
  ['a zero byte', '{"id":"\\u0000","text":"\\u0000","caution":"a\\u0000","step":"b","adaptation":"relearn"}'],
  ['beyond all measure', '{"rev":1e308,"low":-1e308,"high":1e308,"from":1e999,"to":1}'],
  [
    'long texts',
    JSON.stringify({
      text: 'x'.repeat(400_000),
      email: `${'x'.repeat(10_000)}@x.example`,
      caution: 'x'.repeat(100_000),
    }),
  ],
];

/** [what, text of a file of the shop's own]: YAML by the wire. */
export const YAML_BODIES = [
  ['20,000 keys', many(20_000, (i) => `k${i}: 1`)],
  ['60,000 lines', many(60_000, (i) => `k${i}: 1`)],
  ['brackets', `a: ${'['.repeat(150_000)}`],
  ['lists in lists', '- '.repeat(90_000)],
  ['maps in maps', many(400, (i) => `${' '.repeat(i)}k:`)],
  ['aliases', `a: &a [x, x]\n${many(60, (i) => `k${i}: [${Array(40).fill('*a').join(', ')}]`)}`],
  ['a long text', `a: "${'\\n'.repeat(90_000)}"`],
  ['comments', `${'# c\n'.repeat(49_000)}a: 1`],
  ['blocks', `a: |\n${' x\n'.repeat(60_000)}`],
  ['tags', many(4000, (i) => `- !!binary "${i}"`)],
  ['anchors', many(4000, (i) => `- &a${i} {b: *a${Math.max(0, i - 1)}}`)],
];

/** A zip whose manifest says what is in it. */
function archive(files, level = 6) {
  const listed = Object.fromEntries(
    Object.entries(files).map(([n, d]) => [
      n,
      { sha256: createHash('sha256').update(d).digest('hex'), bytes: d.length },
    ]),
  );
  const head = { format: 'just-balance/archive', version: 1, files: listed };
  return zipSync({ ...files, 'manifest.json': strToU8(JSON.stringify(head)) }, { level });
}

/** A PNG that says it is so large and holds next to nothing (W3C PNG, 5 and 11.2). */
function pngOf(width, height, data) {
  const crcTable = Array.from({ length: 256 }, (_, n) => {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    return c >>> 0;
  });
  const crc = (b) => {
    let c = 0xffffffff;
    for (const x of b) c = crcTable[(c ^ x) & 0xff] ^ (c >>> 8);
    return (c ^ 0xffffffff) >>> 0;
  };
  const chunk = (type, body) => {
    const out = Buffer.alloc(12 + body.length);
    out.writeUInt32BE(body.length, 0);
    out.write(type, 4, 'latin1');
    body.copy(out, 8);
    out.writeUInt32BE(crc(out.subarray(4, 8 + body.length)), 8 + body.length);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([1, 0, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', data),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

/** [what, content type, bytes]: every kind of upload. Made when they are needed: some are large. */
export async function uploads() {
  const jpeg = await sharp({ create: { width: 400, height: 300, channels: 3, background: '#567' } })
    .jpeg()
    .toBuffer();
  const line = pngOf(1, 50_000_000, deflateSync(Buffer.alloc(4 * MIB)));
  const job = (text) => ({ 'job.json': Buffer.from(text) });
  return [
    ['nothing', 'application/zip', Buffer.alloc(0)],
    ['no zip', 'application/zip', Buffer.alloc(5000, 'PK')],
    ['spaces', 'application/zip', archive(job(' '.repeat(40 * MIB)))],
    ['brackets', 'application/zip', archive(job('['.repeat(30 * MIB)))],
    ['brackets, not packed', 'application/zip', archive(job('['.repeat(12 * MIB)), 0)],
    [
      'many values, not packed',
      'application/zip',
      archive(job(`{"format":"just-balance/job","version":1,"rows":{"vehicle":[${'{},'.repeat(4_000_000)}{}]}}`), 0),
    ],
    ['half an archive', 'application/zip', archive(job('{"a":1}')).subarray(0, 90)],
    ['rows of nothing', 'application/zip', archive(job('{"format":"just-balance/job","version":1,"rows":{}}'))],
    ['a bomb by its raw bytes', 'application/octet-stream', deflateRawSync(Buffer.alloc(60 * MIB))],
    ['a column that unpacks to much', 'application/octet-stream', deflateSync(Buffer.alloc(60 * MIB))],
    ['rubbish', 'application/octet-stream', Buffer.from(Array.from({ length: 4096 }, (_, i) => (i * 197) % 256))],
    ['one point wide, fifty million high', 'image/png', line],
    ['half a picture', 'image/jpeg', jpeg.subarray(0, jpeg.length / 2)],
    ['a drawing', 'image/svg+xml', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>')],
    ['11 MB of nothing', 'image/jpeg', Buffer.alloc(11 * MIB, 0xff)],
    [
      'a form',
      'multipart/form-data; boundary=x',
      Buffer.from('--x\r\ncontent-disposition: form-data; name="a"\r\n\r\n1\r\n--x--'),
    ],
    ['fields', 'application/x-www-form-urlencoded', Buffer.from('id=1&__proto__[role]=lead')],
    ['text', 'text/plain; charset=utf-16', Buffer.from('{"id":"x"}')],
    ['json of another alphabet', 'application/json; charset=utf-7', Buffer.from('{"id":"x"}')],
    ['a type that is none', '/', Buffer.from('{}')],
  ];
}
