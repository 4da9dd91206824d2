import { jb } from './cli.ts';

process.stdout.on('error', (e: NodeJS.ErrnoException) => {
  if (e.code === 'EPIPE') process.exit(0);
});

process.exitCode = await jb(process.argv.slice(2));
