import { type JobArchive, type ShopFile, shopFileOf } from './shopFile.ts';

const JOB = /^jobs\/([0-9a-f-]{36})\.jb\.zip$/i;
/** What of a shop's file is read at once, and how long each may be, unpacked. [house] */
const TEXTS = /^(?:manifest\.json|settings\.json|layouts\.json|own\/\w+\/[\w-]+\.yaml)$/;
const LONGEST = 20_000_000;
const MOST_TEXTS = 1000;

/**
 * What is in an archive: a file of one job is itself; a file of a whole shop gives its jobs one after the other, each read
 * only when it is asked for, and what else it holds. What is no zip is handed on as it is: the server says what is wrong
 * with it.
 */
export async function jobArchives(file: File): Promise<{ jobs: JobArchive[]; shop: ShopFile | null }> {
  const itself = { jobs: [{ name: file.name, bytes: async () => file }], shop: null };
  const { BlobReader, BlobWriter, TextWriter, ZipReader } = await import('@zip.js/zip.js');
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  try {
    const entries = await zip.getEntries().catch(() => []);
    if (!entries.some((e) => e.filename === 'settings.json')) return itself;
    if (entries.filter((e) => TEXTS.test(e.filename)).length > MOST_TEXTS)
      throw new Error(`${file.name}: more than ${MOST_TEXTS} texts: no shop has so many`);
    const texts = new Map<string, string>();
    for (const e of entries) {
      if (e.directory || !TEXTS.test(e.filename)) continue;
      if (e.uncompressedSize > LONGEST)
        throw new Error(`${file.name}: ${e.filename} is too long to be what it is called`);
      texts.set(e.filename, await e.getData(new TextWriter(), { checkSignature: true }));
    }
    const jobs = entries.flatMap((e) => {
      const id = JOB.exec(e.filename)?.[1];
      // Its own SHA-256 are held against it by the server; here the zip's checksum.
      return id && !e.directory
        ? [
            {
              name: `${file.name}, job ${id.slice(-6)}`,
              bytes: () => e.getData(new BlobWriter('application/zip'), { checkSignature: true }),
            },
          ]
        : [];
    });
    return { jobs: [], shop: shopFileOf(file.name, texts, jobs) };
  } finally {
    await zip.close();
  }
}
