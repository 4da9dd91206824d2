/** The text of a file the server gives at a path below `/api`. */
export async function fileText(path: string): Promise<string> {
  const r = await fetch(`/api${path}`);
  if (!r.ok) throw new Error(`The server answered ${r.status}.`);
  return r.text();
}
