/** What a database is refused for that would be refused with all the room there is. */
const OURS = ['DataCloneError', 'DataError', 'ConstraintError', 'TypeError'];

/** Whether it is the device that will not keep it: full, or its store shut. */
export function deviceRefuses(e: unknown): boolean {
  return !(e instanceof Error) || !OURS.includes(e.name);
}

/** Why the device keeps nothing more, and what to do about it. */
export function whyNotKept(e: unknown): string {
  return e instanceof Error && /quota|abort/i.test(e.name)
    ? 'this device has no room left. Delete pictures or downloads on it that nobody needs'
    : 'this device keeps nothing more. Close this page and open it again; a private window of a browser keeps nothing either';
}
