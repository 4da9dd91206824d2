import type { OwnKind } from '@just-balance/contract/service';
import { answerAside } from '../common/aside.ts';
import { KINDS, type ReadOwn } from './kinds.ts';

/** A text that a shop sends is read here, out of the way of all others. */
answerAside<{ kind: OwnKind; text: string }, ReadOwn>(({ kind, text }) => KINDS[kind].read(text));
