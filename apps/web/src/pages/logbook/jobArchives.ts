/** The archive of one job, by the name it goes under. */
export interface JobArchive {
  name: string;
  bytes: () => Promise<Blob>;
}

const JOB = /^jobs\/([0-9a-f-]{36})\.jb\.zip$/i;

/**
 * The jobs of an archive: a file of one job is itself; a file of a whole shop gives them one after the other, each read
 * only when it is asked for. What is no zip is handed on as it is: the server says what is wrong with it.
 */
export async function jobArchives(file: File): Promise<JobArchive[]> {
  const itself = [{ name: file.name, bytes: async () => file }];
  const { BlobReader, BlobWriter, ZipReader } = await import('@zip.js/zip.js');
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  try {
    const entries = await zip.getEntries();
    if (!entries.some((e) => e.filename === 'settings.json')) return itself;
    return entries.flatMap((e) => {
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
  } catch {
    return itself;
  } finally {
    await zip.close();
  }
}
