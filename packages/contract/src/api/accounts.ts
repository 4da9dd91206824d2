import 'reflect-metadata';
import type { Settings } from '@just-balance/core/diagnosis';
import { IsBoolean, IsEmail, IsIn, IsInt, IsString, IsUUID, MaxLength, Min, MinLength } from 'class-validator';
import { Optional } from '../checks/index.ts';

function NewPassword(): PropertyDecorator {
  const parts = [IsString(), MinLength(10, { message: 'a password of at least 10 characters' }), MaxLength(200)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** Who wrote a request, by account: refused with 412 where somebody else is signed in by now. On answers: who asked. */
export const ACCOUNT_HEADER = 'x-account';

export class SignInRequest {
  @IsEmail() @MaxLength(200) email!: string;
  @IsString() @MinLength(1) @MaxLength(200) password!: string;
}

export class SetupRequest {
  @IsString() @MaxLength(200) token!: string;
  @IsString() @MinLength(1) @MaxLength(120) shopName!: string;
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @IsEmail() @MaxLength(200) email!: string;
  @NewPassword() password!: string;
}

/** What a person may be; each has its rights in the server's table. */
export const ROLE_NAMES = ['lead', 'technician', 'learner', 'read-only'] as const;
export type RoleName = (typeof ROLE_NAMES)[number];

export class NewPersonRequest {
  @IsUUID() id!: string;
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @IsEmail() @MaxLength(200) email!: string;
  @IsIn(ROLE_NAMES) role!: RoleName;
}

export class PersonPatchRequest {
  @IsInt() @Min(1) rev!: number;
  @Optional() @IsString() @MinLength(1) @MaxLength(120) name?: string;
  @Optional() @IsIn(ROLE_NAMES) role?: RoleName;
  @Optional() @IsBoolean() disabled?: boolean;
}

/** Sets the password that a one-time link asks for. */
export class InvitationRequest {
  @IsString() @MinLength(20, { message: 'the link is not whole: open it again' }) @MaxLength(200) token!: string;
  @NewPassword() password!: string;
}

export class PasswordRequest {
  @IsString() @MinLength(1) @MaxLength(200) current!: string;
  @NewPassword() next!: string;
}

/** Types only: what the server answers and what travels over the socket. */
export interface AccountView {
  id: string;
  name: string;
  email: string;
  role: string;
  /** What the role may do. */
  rights: string[];
  shop: {
    id: string;
    name: string;
    rev: number;
    settings: Settings;
    /** What of the shop's own learning is in use, on top of the settings. */
    learned: Pick<Settings, 'priors' | 'reliability'>;
  };
}

export interface SessionView {
  account: AccountView | null;
  setupNeeded: boolean;
  demo: { email: string; password: string; name: string }[] | null;
}

/** A person of the shop, as its lead sees them. */
export interface PersonView {
  id: string;
  rev: number;
  name: string;
  email: string;
  role: string;
  /** False for a role that this version does not know: it has no rights. */
  known: boolean;
  disabled: boolean;
  hasPassword: boolean;
  /** Browsers signed in now. */
  sessions: number;
  /** A one-time link was given and not used yet. */
  linkWaits: boolean;
}

export interface LinkGiven {
  token: string;
  expiresAt: string;
}

/** A browser signed in to the asker's own account. */
export interface OwnSessionView {
  id: string;
  device: string;
  since: string;
  seen: string;
  current: boolean;
}
