import { randomBytes, timingSafeEqual } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { Account } from '../rows/accounts.ts';

/** The one-time token that the first account needs; shown on the console of the server only. */
@Injectable()
export class SetupToken {
  private token: string | null = null;

  async needed(): Promise<boolean> {
    return (await Account.findOne({ attributes: ['id'] })) === null;
  }

  issue(): string {
    this.token ??= randomBytes(12).toString('base64url');
    return this.token;
  }

  matches(given: string): boolean {
    if (!this.token) return false;
    const a = Buffer.from(given);
    const b = Buffer.from(this.token);
    return a.length === b.length && timingSafeEqual(a, b);
  }

  spend(): void {
    this.token = null;
  }
}
