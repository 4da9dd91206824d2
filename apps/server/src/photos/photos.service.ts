import type { PhotoView } from '@just-balance/contract';
import type { PhotoPatch, PhotoQuery } from '@just-balance/contract/service';
import { BadRequestException, ConflictException, Injectable } from '@nestjs/common';
import { conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Turns } from '../common/turns.ts';
import { appendEvent } from '../jobs/events.ts';
import { photoView } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { NEWEST_FIRST, OLDEST_FIRST } from '../rows/order.ts';
import { Photo } from '../rows/photos.ts';
import { ServiceRun } from '../rows/service.ts';
import { PictureError, reencode } from './reencode.ts';

/** Pictures a job may hold. [house] */
const MOST = 400;
const GOOD_SHOWN = 60;
/** Pictures that wait to be decoded, of all shops: each holds its bytes. [house] */
const MOST_WAITING = 64;
const WITHOUT_BYTES = { attributes: { exclude: ['image', 'small'] } };

@Injectable()
export class PhotosService {
  /** Decoding takes a core and tens of megabytes: one at a time, the shops in turn. */
  private readonly decoding = new Turns(MOST_WAITING);

  constructor(private readonly jobs: JobWrites) {}

  /** Pictures without their bytes. */
  async list(who: Actor, id: string): Promise<PhotoView[]> {
    await this.jobs.find(who, id);
    const where = { shopId: who.shopId, jobId: id };
    const rows = await Photo.findAll({ where, order: OLDEST_FIRST, attributes: { exclude: ['image', 'small'] } });
    return rows.map(photoView);
  }

  async put(who: Actor, jobId: string, id: string, query: PhotoQuery, body: unknown): Promise<PhotoView> {
    await this.jobs.find(who, jobId);
    if (!Buffer.isBuffer(body) || body.length === 0)
      throw new BadRequestException({ statusCode: 400, message: 'the body is a picture: image/jpeg, png or webp' });
    const known = await Photo.findByPk(id, WITHOUT_BYTES);
    if (known) return this.same(who, jobId, known);
    const picture = await this.decoding
      .run(who.shopId, () => reencode(body))
      .catch((e: unknown) => {
        if (!(e instanceof PictureError)) throw e;
        throw new BadRequestException({ statusCode: 400, message: `the picture was not kept: ${e.message}` });
      });
    return this.jobs.write(
      who,
      jobId,
      async (_, transaction) => {
        const before = await Photo.findByPk(id, { ...WITHOUT_BYTES, transaction });
        if (before) return this.same(who, jobId, before);
        const where = { jobId, shopId: who.shopId };
        if ((await Photo.count({ where, transaction })) >= MOST)
          throw new ConflictException({ statusCode: 409, message: `this job has ${MOST} pictures: no more` });
        // The run may still wait on the device that took the picture.
        const run = query.run === undefined ? null : query.run;
        const other = run === null ? null : await ServiceRun.findByPk(run, { transaction });
        if (other && (other.shopId !== who.shopId || other.jobId !== jobId)) throw notHere('run');
        const photo = await Photo.create(
          {
            id,
            ...where,
            by: who.name,
            rev: 1,
            undone: false,
            runId: run,
            step: query.step ?? null,
            label: query.label ?? '',
            good: false,
            bytes: picture.image.length,
            ...picture,
          },
          { transaction },
        );
        await appendEvent(who, jobId, 'photo', { id, step: query.step ?? null }, transaction);
        return photoView(photo);
      },
      { resources: ['photos'] },
    );
  }

  private same(who: Actor, jobId: string, photo: Photo): PhotoView {
    if (photo.shopId !== who.shopId || photo.jobId !== jobId) throw conflict('this id', null);
    return photoView(photo);
  }

  async image(who: Actor, jobId: string, id: string, small: boolean): Promise<Buffer> {
    await this.jobs.find(who, jobId);
    const column = small ? 'small' : 'image';
    const row = await Photo.findOne({ where: { id, jobId, shopId: who.shopId }, attributes: [column] });
    if (!row) throw notHere('picture');
    return row[column];
  }

  async patch(who: Actor, jobId: string, id: string, body: PhotoPatch): Promise<PhotoView> {
    const { rev, ...change } = body;
    return this.jobs.write(
      who,
      jobId,
      async (_, transaction) => {
        const row = await Photo.findOne({ where: { id, jobId, shopId: who.shopId }, ...WITHOUT_BYTES, transaction });
        if (!row) throw notHere('picture');
        if (row.rev !== rev) throw conflict('the picture', photoView(row));
        const defined = Object.fromEntries(Object.entries(change).filter(([, v]) => v !== undefined));
        await row.update({ ...defined, rev: rev + 1 }, { transaction });
        await appendEvent(who, jobId, 'photo-changed', { id, ...defined }, transaction);
        return photoView(row);
      },
      { resources: ['photos'] },
    );
  }

  async good(who: Actor): Promise<(PhotoView & { jobId: string })[]> {
    const where = { shopId: who.shopId, good: true, undone: false };
    const rows = await Photo.findAll({ where, ...WITHOUT_BYTES, order: NEWEST_FIRST, limit: GOOD_SHOWN });
    return rows.map((r) => ({ ...photoView(r), jobId: r.jobId }));
  }
}
