/** Chooses ports, says which, and stays until it is ended. */
import { freePorts } from '../lib/ports.mjs';

process.send(await freePorts(400));
process.once('disconnect', () => process.exit(0));
