/** The text of a file is not JSON that is taken. */
export class ElementsError extends Error {}

/** Deeper than a list within an element of a list of the file: nothing of ours is. */
const MOST_DEPTH = 24;
const MOST_NAME = 100;

/**
 * A JSON object whose lists are too long to be parsed whole: each element of a list that is a field of the object is
 * handed over by itself, as it comes by, and leaves its number in its place. `end` gives what is left. Bytes may come in
 * pieces of any size; at most `most` bytes of one element, and of the rest, are held.
 */
export class Elements {
  private depth = 0;
  private text = false;
  private escaped = false;
  /** Bytes of the element at hand, or of what is left of the object. */
  private element: Uint8Array[] | null = null;
  private elementBytes = 0;
  private readonly rest: Uint8Array[] = [];
  private restBytes = 0;
  /** The last text in the object itself: the name of the field that is at hand. */
  private name = '';
  /** Whether that field is a list. */
  private list = false;
  private readonly counts = new Map<string, number>();

  constructor(
    private readonly most: number,
    private readonly found: (field: string, index: number, json: unknown) => void,
  ) {}

  push(bytes: Uint8Array): void {
    let from = 0;
    for (let i = 0; i < bytes.length; i++) {
      const b = bytes[i]!;
      if (this.text) {
        if (this.escaped) this.escaped = false;
        else if (b === 0x5c) this.escaped = true;
        else if (b === 0x22) this.text = false;
        else if (this.depth === 1 && this.name.length < MOST_NAME) this.name += String.fromCharCode(b);
      } else if (b === 0x22) {
        this.text = true;
        if (this.depth === 1) this.name = '';
      } else if (b === 0x7b || b === 0x5b) {
        // `{"channels":[{`: an element begins where the second bracket within the object opens.
        if (this.depth === 1) this.list = b === 0x5b;
        if (this.depth === 2 && this.list) {
          this.keep(bytes.subarray(from, i));
          from = i;
          this.element = [];
          this.elementBytes = 0;
        }
        if (++this.depth > MOST_DEPTH) throw new ElementsError(`nested deeper than ${MOST_DEPTH}`);
      } else if (b === 0x7d || b === 0x5d) {
        this.depth--;
        if (this.depth === 2 && this.element) {
          this.keep(bytes.subarray(from, i + 1));
          from = i + 1;
          const whole = Buffer.concat(this.element);
          this.element = null;
          this.elementBytes = 0;
          const index = this.counts.get(this.name) ?? 0;
          this.counts.set(this.name, index + 1);
          this.keep(Buffer.from(String(index)));
          this.found(this.name, index, parsed(whole));
        }
      }
    }
    this.keep(bytes.subarray(from));
  }

  /** What is left of the object, the elements of its lists as their numbers. */
  end(): unknown {
    return parsed(Buffer.concat(this.rest));
  }

  private keep(bytes: Uint8Array): void {
    if (bytes.length === 0) return;
    if (this.element) this.elementBytes += bytes.length;
    else this.restBytes += bytes.length;
    if (this.elementBytes > this.most || this.restBytes > this.most)
      throw new ElementsError(`more than ${this.most / (1024 * 1024)} MiB in one piece`);
    // The piece it came in may be used again by who read it.
    (this.element ?? this.rest).push(Uint8Array.prototype.slice.call(bytes));
  }
}

function parsed(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    throw new ElementsError('not JSON');
  }
}
