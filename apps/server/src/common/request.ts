import { createParamDecorator, type ExecutionContext } from '@nestjs/common';
import type { Request } from 'express';

/** Who is asking, as the guard found out. */
export interface Actor {
  accountId: string;
  shopId: string;
  name: string;
  role: string;
  sessionId: string;
  /** The page that asks, by the id it gave itself. */
  screen: string | null;
  /** How many writes the job had seen that this request looked at; null before it has looked at one. */
  lookedAt: number | null;
  /** Writes what a practice car showed; set by the server alone. */
  examiner?: true;
}

export type AuthedRequest = Request & { actor?: Actor };

/** The signed-in account of the request. */
export const Who = createParamDecorator((_: unknown, ctx: ExecutionContext): Actor => {
  const actor = ctx.switchToHttp().getRequest<AuthedRequest>().actor;
  if (!actor) throw new Error('no actor: the route is public');
  return actor;
});
