/** What an account may do, by role: data, enforced by the guard and held against the routes that exist by a test. */
export const ROLES = {
  lead: ['look', 'work', 'judge', 'drive', 'lead'],
  technician: ['look', 'work', 'judge', 'drive'],
  learner: ['look', 'work', 'drive'],
  'read-only': ['look'],
} as const satisfies Record<string, readonly Right[]>;

/**
 * look: read what the shop has. work: jobs, readings, tests, records, captures. judge: repairs, figures that beat
 * physics, mending of rows. drive: the simulated bays. lead: people and settings.
 */
export type Right = 'look' | 'work' | 'judge' | 'drive' | 'lead';
/** `open`: without an account. `own`: any signed-in account, about itself. */
type Need = Right | 'open' | 'own';

/** Every route there is, and what it needs. A route that is not here is refused to everybody. */
export const ROUTES: Readonly<Record<string, Need>> = {
  'GET /api/health': 'open',
  'GET /api/session': 'open',
  'POST /api/session': 'open',
  'POST /api/session/setup': 'open',
  'POST /api/session/invitation': 'open',
  'DELETE /api/session': 'own',
  'GET /api/account/sessions': 'own',
  'DELETE /api/account/sessions': 'own',
  'DELETE /api/account/sessions/:sessionId': 'own',
  'POST /api/account/password': 'own',
  'GET /api/people': 'lead',
  'POST /api/people': 'lead',
  'PATCH /api/people/:personId': 'lead',
  'POST /api/people/:personId/link': 'lead',
  'DELETE /api/people/:personId/sessions': 'lead',
  'GET /api/shop/settings': 'look',
  'PUT /api/shop/settings': 'lead',
  'GET /api/vehicles': 'look',
  'GET /api/adapters': 'look',
  'POST /api/adapters/identify': 'work',
  'GET /api/bays': 'look',
  'POST /api/bays/:bay': 'drive',
  'GET /api/practice/scenarios': 'look',
  'GET /api/practice/scenarios/:scenarioId/file': 'judge',
  'GET /api/practice/attempts': 'look',
  'POST /api/practice/attempts': 'drive',
  'GET /api/practice/attempts/:attemptId': 'look',
  'POST /api/practice/attempts/:attemptId/ask': 'drive',
  'POST /api/practice/attempts/:attemptId/answer': 'drive',
  'POST /api/practice/attempts/:attemptId/sign': 'lead',
  'GET /api/jobs': 'look',
  'GET /api/jobs/counts': 'look',
  'GET /api/jobs/due': 'look',
  'GET /api/jobs/running': 'look',
  'GET /api/logbook': 'look',
  'GET /api/logbook/counts': 'look',
  'GET /api/logbook/csv': 'look',
  'GET /api/logbook/views': 'own',
  'PUT /api/logbook/views/:viewId': 'own',
  'DELETE /api/logbook/views/:viewId': 'own',
  'GET /api/learned': 'look',
  'GET /api/learned/settings': 'look',
  'PUT /api/learned/jobs/:jobId': 'lead',
  'GET /api/shop/changes': 'lead',
  'GET /api/audit': 'look',
  'POST /api/vehicles/:vehicleId/erase': 'lead',
  'POST /api/jobs': 'work',
  'GET /api/jobs/:id': 'look',
  'PATCH /api/jobs/:id': 'work',
  'PUT /api/jobs/:id/vehicle': 'work',
  'GET /api/jobs/:id/records': 'look',
  'GET /api/jobs/:id/readings': 'look',
  'GET /api/jobs/:id/tests': 'look',
  'GET /api/jobs/:id/repairs': 'look',
  'GET /api/jobs/:id/known': 'look',
  'GET /api/jobs/:id/cautions': 'look',
  'GET /api/jobs/:id/captures': 'look',
  'GET /api/jobs/:id/damaged': 'look',
  'GET /api/jobs/:id/diagnosis': 'look',
  'POST /api/jobs/:id/diagnosis': 'work',
  'POST /api/jobs/:id/readings': 'work',
  'PUT /api/jobs/:id/readings/:rowId': 'work',
  'PATCH /api/jobs/:id/readings/:rowId': 'work',
  'PUT /api/jobs/:id/records/:rowId': 'work',
  'POST /api/jobs/:id/tests': 'work',
  'PATCH /api/jobs/:id/tests/:rowId': 'work',
  'POST /api/jobs/:id/known': 'judge',
  'PATCH /api/jobs/:id/known/:rowId': 'judge',
  'POST /api/jobs/:id/repairs': 'judge',
  'PATCH /api/jobs/:id/repairs/:rowId': 'judge',
  'POST /api/jobs/:id/cautions': 'work',
  'POST /api/jobs/:id/records': 'work',
  'POST /api/jobs/:id/records/heard': 'work',
  'POST /api/jobs/:id/records/by-hand': 'work',
  'POST /api/jobs/:id/records/clear': 'judge',
  'PUT /api/jobs/:id/damaged/:noun/:rowId': 'judge',
  'GET /api/jobs/:id/link': 'look',
  'POST /api/jobs/:id/link': 'work',
  'DELETE /api/jobs/:id/link': 'work',
  'POST /api/jobs/:id/captures': 'work',
  'POST /api/jobs/:id/captures/spooled': 'work',
  'POST /api/jobs/:id/captures/:captureId/seconds': 'work',
  'POST /api/jobs/:id/captures/:captureId/end': 'work',
  'GET /api/jobs/:id/captures/running': 'look',
  'POST /api/jobs/:id/captures/:captureId/command': 'work',
  'GET /api/jobs/:id/captures/:captureId/recording': 'look',
  'GET /api/jobs/:id/captures/:captureId/columns/:channel': 'look',
  'GET /api/jobs/:id/captures/:captureId/export': 'look',
  'POST /api/jobs/:id/captures/:captureId/marks': 'work',
  'POST /api/jobs/:id/imports': 'work',
  'PUT /api/jobs/:id/imports/:captureId/columns/:channel': 'work',
  'POST /api/jobs/:id/imports/:captureId/finish': 'work',
  'POST /api/layouts/find': 'work',
  'PUT /api/layouts': 'work',
  'GET /api/jobs/:id/export': 'look',
  'GET /api/jobs/:id/hand-over/:document': 'look',
  'GET /api/jobs/:id/archive': 'look',
  'GET /api/archives': 'lead',
  'POST /api/archives': 'judge',
  'GET /api/jobs/:id/runs': 'look',
  'POST /api/jobs/:id/runs': 'work',
  'POST /api/jobs/:id/runs/:runId/events': 'work',
  'GET /api/jobs/:id/entries': 'look',
  'POST /api/jobs/:id/entries': 'work',
  'PATCH /api/jobs/:id/entries/:rowId': 'work',
  'GET /api/jobs/:id/photos': 'look',
  'PUT /api/jobs/:id/photos/:photoId': 'work',
  'GET /api/jobs/:id/photos/:photoId': 'look',
  'PATCH /api/jobs/:id/photos/:photoId': 'work',
  'GET /api/photos/good': 'look',
  'GET /api/service/outcomes': 'look',
  'GET /api/vehicles/:vehicleId/drives': 'look',
  'GET /api/vehicles/:vehicleId/changes': 'look',
  'GET /api/vehicles/:vehicleId/history': 'look',
  'GET /api/procedures': 'look',
  'GET /api/procedures/:procedureId/file': 'look',
  'GET /api/procedures/ours/:slug': 'look',
  'PUT /api/procedures/:procedureId': 'judge',
  'POST /api/procedures/file': 'judge',
  'PATCH /api/procedures/:procedureId': 'judge',
};

/** The rights of a role; none of one that is not known. */
export function rightsOf(role: string): readonly Right[] {
  return Object.hasOwn(ROLES, role) ? ROLES[role as keyof typeof ROLES] : [];
}

/** Whether a role may use a route, `METHOD /api/path/:parameter` as the router has it. */
export function allowed(role: string, route: string): boolean {
  const need = Object.hasOwn(ROUTES, route) ? ROUTES[route] : undefined;
  return need === 'open' || need === 'own' || (need !== undefined && rightsOf(role).includes(need));
}

export function isOpen(route: string): boolean {
  return ROUTES[route] === 'open';
}
