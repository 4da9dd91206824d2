/**
 * How much longer than on an idle machine a test may take before it counts as hanging: one factor, measured once at the
 * start by a piece of work whose time on an idle machine is known, and by how many wait for a processor already. It is
 * handed down to every process in JB_PATIENCE.
 */
const { createHash } = require('node:crypto');
const { availableParallelism, loadavg } = require('node:os');

/** Hashing 16 MB on an idle machine of two cores; from memory, to a factor of two. */
const IDLE_MS = 35;
/** More than this is no slow machine but a broken one. */
const MOST = 5;

function measured() {
  const block = Buffer.alloc(1 << 24);
  const from = process.hrtime.bigint();
  createHash('sha256').update(block).digest();
  const ms = Number(process.hrtime.bigint() - from) / 1e6;
  return Math.min(MOST, Math.max(1, ms / IDLE_MS, loadavg()[0] / availableParallelism()));
}

process.env.JB_PATIENCE ??= measured().toFixed(1);
const patience = Number(process.env.JB_PATIENCE);

/** A limit in milliseconds, as it is meant on an idle machine, for this one. */
exports.patient = (ms) => Math.round(ms * patience);
