import type { OwnVersionView, OwnView, UndoRequest } from '@just-balance/contract';
import type {
  OwnKind,
  OwnProcedureRequest,
  ProcedureFileRequest,
  TakeBackRequest,
} from '@just-balance/contract/service';
import { procedureProblems } from '@just-balance/core/procedures';
import { inWords } from '@just-balance/core/units';
import { BadRequestException, ConflictException, Injectable, type OnModuleDestroy } from '@nestjs/common';
import { type Transaction, UniqueConstraintError } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { stringify } from 'yaml';
import { Aside, AsideEnded } from '../common/aside.ts';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { OwnProcedure, OwnVersion } from '../rows/procedures.ts';
import { ShopChange } from '../rows/shop.ts';
import { KINDS, type OwnData, type ReadOwn } from './kinds.ts';

/** Procedures a shop may keep. [house] */
const MOST = 300;

/** The longest of ours takes 40 ms. [house] */
const READING = { ms: 20_000, megabytes: 80, waiting: 40, last: true };

@Injectable()
export class ProceduresService implements OnModuleDestroy {
  private readonly reading = new Aside<{ kind: OwnKind; text: string }, ReadOwn>(
    new URL('./read.thread.js', import.meta.url),
    READING,
  );

  constructor(private readonly work: Work) {}

  onModuleDestroy(): Promise<void> {
    return this.reading.close();
  }

  async list(who: Actor, kind: OwnKind): Promise<OwnView<OwnData>[]> {
    const rows = await OwnProcedure.findAll({ where: { shopId: who.shopId, kind }, order: [['slug', 'ASC']] });
    return rows.filter((r) => KINDS[kind].problems(r.data).length === 0).map(view);
  }

  async put(who: Actor, id: string, body: OwnProcedureRequest): Promise<OwnView<OwnData>> {
    const problems = procedureProblems(body.procedure);
    if (problems.length > 0)
      throw badFields(problems.map((p) => ({ field: `procedure.${p.field}`, message: p.message })));
    return this.keep(who, 'service', id, body.procedure, body.rev ?? null, body.copiedFrom ?? null);
  }

  async fromFile(who: Actor, body: ProcedureFileRequest): Promise<OwnView<OwnData>> {
    const kind = body.kind ?? 'service';
    const read = await this.reading.run(who.shopId, { kind, text: body.text }).catch((e: unknown): ReadOwn => {
      if (!(e instanceof AsideEnded)) throw e;
      return { ok: false, errors: [{ line: 1, field: '', message: e.message }] };
    });
    if (!read.ok)
      throw new BadRequestException({
        statusCode: 400,
        message: read.errors.map((e) => `line ${e.line}${e.field ? `, ${e.field}` : ''}: ${e.message}`)[0],
        errors: read.errors,
      });
    const known = await OwnProcedure.findOne({ where: { shopId: who.shopId, kind, slug: read.value.id } });
    // Of the same id as one that is there: a person says whether it is a new version of that one.
    if (known && known.id !== body.id)
      throw new ConflictException({
        statusCode: 409,
        message: `the shop has a ${KINDS[kind].one} "${known.slug}" already, version ${known.rev} by ${known.by}: make this a new version of it, or give it an id of its own`,
        current: view(known),
      });
    return this.keep(who, kind, body.id, read.value, body.rev ?? null, body.copiedFrom ?? null);
  }

  async versions(who: Actor, id: string): Promise<OwnVersionView[]> {
    const now = await this.find(who, id);
    const before = await OwnVersion.findAll({ where: { shopId: who.shopId, ownId: id }, order: [['rev', 'DESC']] });
    return [now, ...before].map(({ rev, by, data }) => ({ rev, by, title: data.title }));
  }

  async takeBack(who: Actor, id: string, body: TakeBackRequest): Promise<OwnView<OwnData>> {
    return this.work.run(async (transaction) => {
      const row = await this.find(who, id, transaction);
      if (row.rev !== body.rev) throw conflict('the procedure', view(row));
      const where = { shopId: who.shopId, ownId: id, rev: body.version };
      const version = await OwnVersion.findOne({ where, transaction });
      if (!version) throw notHere('version');
      const data = version.data as OwnData;
      await this.replace(who, row, { data, slug: data.id, undone: false }, transaction);
      await this.tell(who, row, `took version ${body.version} back`, transaction);
      return view(row);
    });
  }

  /** What it says from now on; what it said stays among its versions. */
  private async replace(
    who: Actor,
    row: OwnProcedure,
    next: Pick<OwnProcedure, 'data' | 'slug' | 'undone'>,
    transaction: Transaction,
  ): Promise<void> {
    const { shopId, id: ownId, rev, by, data } = row;
    await OwnVersion.create({ id: uuidv7(), shopId, ownId, rev, by, data }, { transaction });
    await row.update({ ...next, rev: rev + 1, by: who.name }, { transaction });
  }

  private async tell(who: Actor, { id, kind, rev, data }: OwnProcedure, what: string, transaction: Transaction) {
    await ShopChange.create(
      {
        id: uuidv7(),
        shopId: who.shopId,
        accountId: who.accountId,
        by: who.name,
        kind: 'procedure',
        data: { own: id, what, of: KINDS[kind].one, title: data.title, version: rev },
      },
      { transaction },
    );
  }

  private async keep(
    who: Actor,
    kind: OwnKind,
    id: string,
    procedure: OwnData,
    rev: number | null,
    copiedFrom: string | null,
  ): Promise<OwnView<OwnData>> {
    if (KINDS[kind].shipped.some((p) => p.id === procedure.id))
      throw badFields([
        { field: 'procedure.id', message: `"${procedure.id}" is one of ours: give the copy an id of its own` },
      ]);
    try {
      return await this.work.run(async (transaction) => {
        const before = await OwnProcedure.findByPk(id, { transaction, lock: true });
        if (before && (before.shopId !== who.shopId || before.kind !== kind)) throw conflict('this id', null);
        if (before) {
          if (before.rev !== rev) {
            // A repeat of the write that made it.
            if (rev === null && before.rev === 1) return view(before);
            throw conflict('the procedure', view(before));
          }
          await this.replace(who, before, { data: procedure, slug: procedure.id, undone: false }, transaction);
          await this.tell(who, before, 'changed', transaction);
          return view(before);
        }
        if ((await OwnProcedure.count({ where: { shopId: who.shopId, kind }, transaction })) >= MOST)
          throw new ConflictException({
            statusCode: 409,
            message: `the shop has ${MOST} of the kind “${KINDS[kind].one}”: no more`,
          });
        const made = await OwnProcedure.create(
          {
            ...{ id, shopId: who.shopId, by: who.name, rev: 1, undone: false },
            ...{ slug: procedure.id, kind, copiedFrom, data: procedure },
          },
          { transaction },
        );
        await this.tell(who, made, copiedFrom === null ? 'brought in' : 'copied', transaction);
        return view(made);
      });
    } catch (e) {
      if (!(e instanceof UniqueConstraintError)) throw e;
      throw badFields([
        { field: 'procedure.id', message: `the shop has a ${KINDS[kind].one} "${procedure.id}" already` },
      ]);
    }
  }

  async undo(who: Actor, id: string, body: UndoRequest): Promise<OwnView<OwnData>> {
    return this.work.run(async (transaction) => {
      const row = await this.find(who, id, transaction);
      if (row.rev !== body.rev) throw conflict('the procedure', view(row));
      await this.replace(who, row, { data: row.data, slug: row.slug, undone: body.undone }, transaction);
      await this.tell(who, row, body.undone ? 'removed' : 'put back', transaction);
      return view(row);
    });
  }

  async file(who: Actor, id: string): Promise<{ name: string; text: string }> {
    const row = await this.find(who, id);
    return { name: row.slug, text: stringify(inWords(row.data, 'own'), { aliasDuplicateObjects: false }) };
  }

  /** One of ours as a YAML file: to be read, or to begin a copy from. */
  ours(kind: OwnKind, slug: string): { name: string; text: string } {
    const procedure = KINDS[kind].shipped.find((p) => p.id === slug);
    if (!procedure) throw notHere(KINDS[kind].one);
    return { name: slug, text: stringify(inWords(procedure, 'own'), { aliasDuplicateObjects: false }) };
  }

  private async find(who: Actor, id: string, transaction?: Transaction): Promise<OwnProcedure> {
    const row = await OwnProcedure.findOne({
      where: { id, shopId: who.shopId },
      ...(transaction ? { transaction, lock: true } : {}),
    });
    if (!row) throw notHere('procedure');
    return row;
  }
}

function view(r: OwnProcedure): OwnView<OwnData> {
  const { id, rev, by, undone, copiedFrom } = r;
  return { id, rev, at: r.createdAt.toISOString(), by, undone, copiedFrom, procedure: r.data };
}
