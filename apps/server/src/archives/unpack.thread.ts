import { answerAside } from '../common/aside.ts';
import { type Unpacking, unpack } from './unpack.ts';

/** An archive from outside is looked through here, out of the way of all others. */
answerAside<{ path: string; dir: string; format: string }, Unpacking>(({ path, dir, format }) =>
  unpack(path, dir, format),
);
