import type { PaperSize } from '@just-balance/contract';
import type { Block, DocumentSection, HandOverDocument } from '@just-balance/core/handOver';
import pdfmake, { type Content } from 'pdfmake';
import { FONT_FILES, FONTS, MAIN_FONT, runsOf } from './fonts.ts';
import { type Tag, type TagStep, tagEverything } from './tagging.ts';
import { trimChartSvg, trimsInWords } from './trimChartSvg.ts';

/** A picture that goes in, as JPEG. */
export interface Picture {
  id: string;
  image: Buffer;
}

const SOFT = '#4a5260';
const MARGIN = 48;
const CELL = 8;
/** Rows of a table that stays whole under its heading. */
const SHORT = 5;

/** What pdfmake takes, with our tag on it. */
const tagged = (node: object, tag: Tag): Content => ({ ...node, tag }) as unknown as Content;
const words = (text: string) => runsOf(text);

tagEverything();
pdfmake.setFonts(FONTS);
pdfmake.setUrlAccessPolicy(() => false);
pdfmake.setLocalAccessPolicy((path: string) => FONT_FILES.has(path));

/** Sizes of type for a sheet that a customer takes along, pt: the first at which one page holds it. */
const ONE_PAGE_PT = [11.5, 10.5, 9.5, 8.5] as const;
const TABLES_PT = 9.5;

interface Around {
  precedence: string;
  printedAt: string;
  paper: PaperSize;
}

/**
 * A hand-over as a tagged PDF with page numbers. `pictures` by id, those that are missing are named only. The customer's
 * is one page, unless even small type takes more.
 */
export async function renderPdf(
  doc: HandOverDocument,
  pictures: ReadonlyMap<string, Picture>,
  around: Around,
): Promise<Buffer> {
  if (doc.id === 'technician') return (await laidOut(doc, pictures, around, TABLES_PT)).pdf;
  for (const pt of ONE_PAGE_PT) {
    const { pdf, pages } = await laidOut(doc, pictures, around, pt);
    if (pages === 1) return pdf;
  }
  return (await laidOut(doc, pictures, around, ONE_PAGE_PT[0])).pdf;
}

async function laidOut(
  doc: HandOverDocument,
  pictures: ReadonlyMap<string, Picture>,
  { precedence, printedAt, paper }: Around,
  pt: number,
): Promise<{ pdf: Buffer; pages: number }> {
  const wide = doc.id === 'technician';
  // Headings and gaps go with the type.
  const k = wide ? 1 : pt / ONE_PAGE_PT[0];
  let all = 0;
  const definition: Parameters<typeof pdfmake.createPdf>[0] & { tagged: boolean; displayTitle: boolean } = {
    tagged: true,
    displayTitle: true,
    language: 'en',
    version: '1.7',
    info: { title: `${doc.title}, ${doc.about[1] ?? ''}`, creator: 'Just Balance', producer: 'Just Balance' },
    pageSize: paper,
    pageOrientation: wide ? 'landscape' : 'portrait',
    pageMargins: [MARGIN, MARGIN, MARGIN, MARGIN + 10],
    defaultStyle: { font: MAIN_FONT, fontSize: pt, lineHeight: 1.25 },
    content: [
      ...letterhead(doc, k),
      tagged({ text: words(doc.title), fontSize: 22 * k, bold: true, margin: [0, 0, 0, 4 * k] }, [
        { type: 'H1', key: 'title' },
      ]),
      ...aboutOf(doc).map((line, i) => tagged({ text: words(line), color: SOFT }, [{ type: 'P', key: `about${i}` }])),
      ...doc.sections.flatMap((s) => section(s, pictures, k)),
      tagged({ text: words(precedence), color: SOFT, fontSize: 9, margin: [0, 16 * k, 0, 0] }, [
        { type: 'P', key: 'precedence' },
      ]),
    ],
    footer: (page, pages) => {
      all = pages;
      return {
        margin: [MARGIN, 14, MARGIN, 0],
        fontSize: 9,
        color: SOFT,
        columns: [
          { text: words(`${doc.about[0] ?? ''}, printed ${printedAt}`) },
          { text: `Page ${page} of ${pages}`, alignment: 'right' },
        ],
      };
    },
  };
  return { pdf: await pdfmake.createPdf(definition).getBuffer(), pages: all };
}

/** The shop as its customers know it, in one line, as a letter of it begins. */
function letterhead({ letterhead: [shop = '', ...more] }: HandOverDocument, k: number): Content[] {
  const small = more.length === 0 ? [] : [{ text: words(`   ${more.join(' · ')}`), fontSize: 8.5 * k, color: SOFT }];
  return [
    tagged({ text: [{ text: words(shop), fontSize: 13 * k, bold: true }, ...small], margin: [0, 0, 0, 2 * k] }, [
      { type: 'P', key: 'shop' },
    ]),
  ];
}

/** What stands under the title; the shop stands above it already. The plate goes before the car. */
const aboutOf = ({ about: [, first = '', ...more], plate }: HandOverDocument): string[] => [
  plate ? `${plate} · ${first}` : first,
  ...more,
];

function section(s: DocumentSection, pictures: ReadonlyMap<string, Picture>, k: number): Content[] {
  const at: TagStep = { type: 'Sect', key: s.id };
  const heading = tagged(
    { text: words(s.heading), fontSize: 14 * k, bold: true, margin: [0, 14 * k, 0, 3 * k], headlineLevel: 1 },
    [at, { type: 'H2', key: 'heading' }],
  );
  const blocks = s.blocks.flatMap((b, i) => block(b, [at], `${i}`, pictures, k));
  // A heading does not stand alone at the foot of a page; a long table would go to the next one with it.
  const first = s.blocks[0];
  if (first?.kind === 'table' && first.rows.length > SHORT) return [heading, ...blocks];
  return [{ unbreakable: true, stack: [heading, ...blocks.slice(0, 1)] }, ...blocks.slice(1)];
}

function block(b: Block, at: Tag, key: string, pictures: ReadonlyMap<string, Picture>, k: number): Content[] {
  if (b.kind === 'text')
    return [tagged({ text: words(b.text), margin: [0, 0, 0, 3 * k] }, [...at, { type: 'P', key }])];
  if (b.kind === 'list')
    return b.items.map((item, i) => ({
      columnGap: 6,
      margin: [0, 0, 0, 2 * k],
      columns: [
        { width: 8, text: '•' },
        tagged({ width: '*', text: words(item) }, [
          ...at,
          { type: 'L', key },
          { type: 'LI', key: `${i}` },
          { type: 'LBody', key: 'body' },
        ]),
      ],
    }));
  if (b.kind === 'trimChart') {
    const { svg, width } = trimChartSvg(b);
    return [
      tagged({ svg, width: width * k, margin: [0, 4, 0, 2] }, [...at, { type: 'Figure', key, alt: trimsInWords(b) }]),
      tagged(
        {
          text: words(
            `Grey ring: before. Solid: after. Shaded: up to ${b.watchPct} % either way.${b.banks === 2 ? ' Round: bank 1. Square on its corner: bank 2.' : ''}`,
          ),
          color: SOFT,
          fontSize: 9,
          margin: [0, 0, 0, 4],
        },
        [...at, { type: 'P', key: `${key}legend` }],
      ),
    ];
  }
  if (b.kind === 'photos') return photos(b, at, key, pictures);
  return [table(b, at, key)];
}

function photos(
  b: Extract<Block, { kind: 'photos' }>,
  at: Tag,
  key: string,
  pictures: ReadonlyMap<string, Picture>,
): Content[] {
  const cells = b.photos.map((p): Content => {
    const name = p.label || 'Picture';
    const picture = pictures.get(p.id);
    const label = tagged({ text: words(picture ? name : `${name} (in the job's archive)`), fontSize: 9 }, [
      ...at,
      { type: 'P', key: `${key}${p.id}label` },
    ]);
    if (!picture) return label;
    return {
      unbreakable: true,
      stack: [
        tagged(
          {
            image: `data:image/jpeg;base64,${picture.image.toString('base64')}`,
            fit: [230, 175],
            margin: [0, 4, 0, 0],
          },
          [...at, { type: 'Figure', key: `${key}${p.id}`, alt: name }],
        ),
        label,
      ],
    };
  });
  const rows: Content[] = [];
  for (let i = 0; i < cells.length; i += 3) {
    const row = cells.slice(i, i + 3);
    while (row.length < 3) row.push({ text: '' });
    rows.push({ columns: row, columnGap: 8 });
  }
  return rows;
}

function table(b: Extract<Block, { kind: 'table' }>, at: Tag, key: string): Content {
  const path: Tag = [...at, { type: 'Table', key }];
  const headed = b.head.some((h) => h !== '');
  const cell = (text: string, row: number, column: number, type: 'TH' | 'TD') =>
    tagged(
      {
        text: words(text),
        bold: type === 'TH',
        alignment: b.right.includes(column) ? 'right' : 'left',
      },
      [...path, { type: 'TR', key: `r${row}` }, { type, key: `c${column}` }],
    );
  const rows = b.rows.map((row, i) => row.map((t, c) => cell(t, i + 1, c, !headed && c === 0 ? 'TH' : 'TD')));
  const head = headed ? [b.head.map((h, c) => cell(h, 0, c, 'TH'))] : [];
  const longest = (c: number) => Math.max(b.head[c]!.length, ...b.rows.map((r) => r[c]!.length));
  return {
    margin: [0, 4, 0, 6],
    fontSize: 9,
    table: {
      headerRows: head.length,
      dontBreakRows: true,
      widths: b.head.map((_, c) => (longest(c) > 24 ? '*' : 'auto')),
      body: [...head, ...rows],
    },
    layout: {
      hLineWidth: (i) => (i === 0 ? 0 : 0.5),
      vLineWidth: () => 0,
      hLineColor: () => '#c8cdd5',
      paddingLeft: (i) => (i === 0 ? 0 : CELL / 2),
      paddingRight: () => CELL / 2,
    },
  };
}
