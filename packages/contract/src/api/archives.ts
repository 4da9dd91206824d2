import { Moment, Optional } from '../checks/index.ts';

/** Which jobs go into the archive of a shop: all, or those opened on or after a day and before the day after another. */
export class ShopArchiveQuery {
  @Optional() @Moment() from?: string;
  @Optional() @Moment() to?: string;
}

/** What became of an archive that was read. */
export interface ArchiveTaken {
  job: string;
  /** False: the job is here already, and nothing was changed. */
  taken: boolean;
  /** Of a job that is here: the tables in which the archive differs from it. */
  differs: string[];
}
