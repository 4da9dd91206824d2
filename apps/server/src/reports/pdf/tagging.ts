import LayoutBuilderModule from 'pdfmake/js/LayoutBuilder.js';
import RendererModule from 'pdfmake/js/Renderer.js';

/**
 * Structure for readers that do not look (ISO 32000-1, 14.8): pdfmake says that a file is tagged but writes no tree, so
 * what it draws is put under elements here. A node of the definition carries `tag`: the way from the document down to
 * its own element, outermost first; everything without one is decoration.
 */
export interface TagStep {
  /** A standard structure type: Sect, H1, H2, P, L, LI, Table, TR, TH, TD, Figure. */
  type: string;
  /** Names the element among its siblings. */
  key: string;
  /** What a picture shows, in words. */
  alt?: string;
}
export type Tag = readonly TagStep[];

interface Element {
  add(child: unknown): void;
  end(): void;
}
interface PdfDocument {
  struct(type: string, options?: object): Element;
  addStructure(e: Element): void;
  markStructureContent(type: string): unknown;
  markContent(type: string, options?: object): void;
  endMarkedContent(): void;
}
interface Tagged {
  tag?: Tag;
}

class Tree {
  private readonly made = new Map<string, Element>();
  private readonly root: Element;

  constructor(private readonly doc: PdfDocument) {
    this.root = doc.struct('Document');
    doc.addStructure(this.root);
  }

  draw(tag: Tag | undefined, paint: () => void): void {
    if (!tag) {
      this.doc.markContent('Artifact', { type: 'Layout' });
      paint();
      this.doc.endMarkedContent();
      return;
    }
    let at = this.root;
    let path = '';
    for (const step of tag) {
      path += `/${step.key}`;
      let e = this.made.get(path);
      if (!e) {
        e = this.doc.struct(step.type, step.alt ? { alt: step.alt } : {});
        at.add(e);
        this.made.set(path, e);
      }
      at = e;
    }
    at.add(this.doc.markStructureContent(tag.at(-1)!.type));
    paint();
    this.doc.endMarkedContent();
  }

  end(): void {
    for (const e of [...this.made.values()].reverse()) e.end();
    this.root.end();
  }
}

const classOf = (module: { default?: unknown }) =>
  (module.default ?? module) as { prototype: Record<string, (...args: unknown[]) => unknown> };

const trees = new WeakMap<object, Tree>();
let patched = false;

/** Once: the layout remembers where a line came from, the renderer draws it under its element. */
export function tagEverything(): void {
  if (patched) return;
  patched = true;
  const layout = classOf(LayoutBuilderModule).prototype;
  const nextLine = layout.buildNextLine!;
  layout.buildNextLine = function (this: object, node: unknown) {
    const line = nextLine.call(this, node) as Tagged | null;
    const tag = (node as Tagged).tag;
    if (line && tag) line.tag = tag;
    return line;
  };
  const renderer = classOf(RendererModule).prototype;
  const renderPages = renderer.renderPages!;
  renderer.renderPages = function (this: { pdfDocument: PdfDocument }, pages: unknown) {
    const tree = new Tree(this.pdfDocument);
    trees.set(this.pdfDocument, tree);
    renderPages.call(this, pages);
    tree.end();
  };
  for (const name of ['renderLine', 'renderVector', 'renderImage', 'renderSVG']) {
    const draw = renderer[name]!;
    renderer[name] = function (this: { pdfDocument: PdfDocument }, item: unknown, ...rest: unknown[]) {
      trees.get(this.pdfDocument)!.draw((item as Tagged).tag, () => {
        draw.call(this, item, ...rest);
      });
    };
  }
}
