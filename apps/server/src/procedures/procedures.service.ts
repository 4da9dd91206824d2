import type { OwnProcedureView, UndoRequest } from '@just-balance/contract';
import { readProcedure } from '@just-balance/contract/procedures';
import {
  type OwnProcedureRequest,
  type ProcedureFileRequest,
  storedProcedureProblems,
} from '@just-balance/contract/service';
import { type Procedure, procedureProblems, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { BadRequestException, ConflictException, Injectable } from '@nestjs/common';
import { UniqueConstraintError } from 'sequelize';
import { stringify } from 'yaml';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { OwnProcedure } from '../database/models.ts';
import { Work } from '../database/work.ts';

/** Procedures a shop may keep. [house] */
const MOST = 300;

@Injectable()
export class ProceduresService {
  constructor(private readonly work: Work) {}

  async list(who: Actor): Promise<OwnProcedureView[]> {
    const rows = await OwnProcedure.findAll({ where: { shopId: who.shopId }, order: [['slug', 'ASC']] });
    return rows.filter((r) => storedProcedureProblems(r.data).length === 0).map(view);
  }

  async put(who: Actor, id: string, body: OwnProcedureRequest): Promise<OwnProcedureView> {
    const problems = procedureProblems(body.procedure);
    if (problems.length > 0)
      throw badFields(problems.map((p) => ({ field: `procedure.${p.field}`, message: p.message })));
    return this.keep(who, id, body.procedure, body.rev ?? null, body.copiedFrom ?? null);
  }

  async fromFile(who: Actor, body: ProcedureFileRequest): Promise<OwnProcedureView> {
    const read = readProcedure(body.text);
    if (!read.ok)
      throw new BadRequestException({
        statusCode: 400,
        message: read.errors.map((e) => `line ${e.line}${e.field ? `, ${e.field}` : ''}: ${e.message}`)[0],
        errors: read.errors,
      });
    const { slug, rev, id } = (await OwnProcedure.findOne({
      where: { shopId: who.shopId, slug: read.procedure.id },
    })) ?? { slug: null, rev: null, id: body.id };
    // The same procedure again is a new version of it.
    return this.keep(who, slug === null ? body.id : id, read.procedure, rev, body.copiedFrom ?? null);
  }

  private async keep(
    who: Actor,
    id: string,
    procedure: Procedure,
    rev: number | null,
    copiedFrom: string | null,
  ): Promise<OwnProcedureView> {
    if (SHIPPED_PROCEDURES.some((p) => p.id === procedure.id))
      throw badFields([
        { field: 'procedure.id', message: `"${procedure.id}" is one of ours: give the copy an id of its own` },
      ]);
    try {
      return await this.work.run(async (transaction) => {
        const before = await OwnProcedure.findByPk(id, { transaction, lock: true });
        if (before && before.shopId !== who.shopId) throw conflict('this id', null);
        if (before) {
          if (before.rev !== rev) {
            // A repeat of the write that made it.
            if (rev === null && before.rev === 1) return view(before);
            throw conflict('the procedure', view(before));
          }
          await before.update(
            { data: procedure, slug: procedure.id, rev: before.rev + 1, by: who.name, undone: false },
            { transaction },
          );
          return view(before);
        }
        if ((await OwnProcedure.count({ where: { shopId: who.shopId }, transaction })) >= MOST)
          throw new ConflictException({ statusCode: 409, message: `the shop has ${MOST} procedures: no more` });
        return view(
          await OwnProcedure.create(
            {
              id,
              shopId: who.shopId,
              by: who.name,
              rev: 1,
              undone: false,
              slug: procedure.id,
              copiedFrom,
              data: procedure,
            },
            { transaction },
          ),
        );
      });
    } catch (e) {
      if (!(e instanceof UniqueConstraintError)) throw e;
      throw badFields([{ field: 'procedure.id', message: `the shop has a procedure "${procedure.id}" already` }]);
    }
  }

  async undo(who: Actor, id: string, body: UndoRequest): Promise<OwnProcedureView> {
    return this.work.run(async (transaction) => {
      const row = await this.find(who, id, transaction);
      if (row.rev !== body.rev) throw conflict('the procedure', view(row));
      await row.update({ undone: body.undone, rev: row.rev + 1 }, { transaction });
      return view(row);
    });
  }

  async file(who: Actor, id: string): Promise<{ name: string; text: string }> {
    const row = await this.find(who, id);
    return { name: row.slug, text: stringify(row.data, { aliasDuplicateObjects: false }) };
  }

  /** One of ours as a YAML file: to be read, or to begin a copy from. */
  ours(slug: string): { name: string; text: string } {
    const procedure = SHIPPED_PROCEDURES.find((p) => p.id === slug);
    if (!procedure) throw notHere('procedure');
    return { name: slug, text: stringify(procedure, { aliasDuplicateObjects: false }) };
  }

  private async find(who: Actor, id: string, transaction?: import('sequelize').Transaction): Promise<OwnProcedure> {
    const row = await OwnProcedure.findOne({
      where: { id, shopId: who.shopId },
      ...(transaction ? { transaction, lock: true } : {}),
    });
    if (!row) throw notHere('procedure');
    return row;
  }
}

function view(r: OwnProcedure): OwnProcedureView {
  const { id, rev, by, undone, copiedFrom } = r;
  return { id, rev, at: r.createdAt.toISOString(), by, undone, copiedFrom, procedure: r.data };
}
