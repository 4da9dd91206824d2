import type { Model, Sequelize } from 'sequelize';
import { defineAccounts } from './accounts.ts';
import { defineCaptures } from './captures.ts';
import type { Define } from './columns.ts';
import { defineDoneRequest } from './doneRequest.ts';
import { defineJobs } from './jobs.ts';
import { defineKnown } from './known.ts';
import { defineLearning } from './learning.ts';
import { defineLinks } from './links.ts';
import { defineLogbook } from './logbook.ts';
import { definePhotos } from './photos.ts';
import { definePractice } from './practice.ts';
import { defineProcedures } from './procedures.ts';
import { defineReadings } from './readings.ts';
import { defineRecordings } from './recordings.ts';
import { defineRecords } from './records.ts';
import { defineRepairs } from './repairs.ts';
import { defineService } from './service.ts';
import { defineShop } from './shop.ts';
import { defineTests } from './tests.ts';
import { defineVehicles } from './vehicles.ts';

/** Bind all models to a connection. The tables themselves come from the migrations. */
export function defineModels(sequelize: Sequelize): void {
  const define: Define = (model, tableName, attributes, createdAt = true) =>
    // Sequelize writes into the attribute objects it is given: each model gets its own.
    (model as typeof Model & typeof model).init(ownCopy(attributes), {
      sequelize,
      tableName,
      modelName: tableName,
      timestamps: createdAt,
      updatedAt: false,
      createdAt: createdAt ? 'createdAt' : false,
    });
  defineShop(define);
  defineLearning(define);
  defineAccounts(define);
  defineDoneRequest(define);
  defineVehicles(define);
  defineRecords(define);
  defineReadings(define);
  defineTests(define);
  defineRepairs(define);
  defineKnown(define);
  defineCaptures(define);
  defineService(define);
  definePhotos(define);
  defineProcedures(define);
  defineRecordings(define);
  defineLogbook(define);
  definePractice(define);
  defineLinks(define);
  // Last: what is read together with a job is bound before it.
  defineJobs(define);
}

function ownCopy<T extends object>(attributes: T): T {
  return Object.fromEntries(Object.entries(attributes).map(([k, v]) => [k, { ...(v as object) }])) as T;
}
