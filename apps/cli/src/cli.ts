import { Command } from 'commander';
import { BadInput } from './badInput.ts';

/** The words of a call to what they do. Each command is loaded when it is called: none waits for what only another needs. */
function commands(): Command {
  const program = new Command('jb')
    .description('Just Balance on the command line: no database, no server.')
    .exitOverride();

  program
    .command('decode')
    .argument('<log>', 'candump log, - for standard input')
    .option('--strict', 'fail on the first bad line')
    .description('a candump log with OBD traffic to TSV: time ecu service pid name value unit')
    .action(async (log: string, o: { strict?: boolean }) =>
      (await import('./commands/decode.ts')).decode(log, o.strict ?? false),
    );

  program
    .command('diagnose')
    .requiredOption('--in <file>', 'cases, one JSON object a line; - for standard input')
    .requiredOption('--out <file>', 'results, same order; - for standard output')
    .option('--settings <file>', 'limits, minutes, tools, priors')
    .description('one case a line to one diagnosis a line')
    .action(async (o: { in: string; out: string; settings?: string }) =>
      (await import('./commands/diagnose.ts')).diagnoseFile(o.in, o.out, o.settings),
    );

  program
    .command('simulate')
    .argument('<scenario>', 'scenario JSON')
    .requiredOption('--out <file>', 'a .candump, .log or .csv file')
    .description('run the simulated vehicle as fast as it goes and log its OBD traffic')
    .action(async (scenario: string, o: { out: string }) =>
      (await import('./commands/simulate.ts')).simulate(scenario, o.out),
    );

  program
    .command('convert')
    .argument('<in>', 'a .candump, .log, .csv or .json (capture) file')
    .argument('<out>', 'the same, another form')
    .description("between candump, CSV of any layout and the capture format, by the files' endings")
    .action(async (input: string, output: string) =>
      (await import('./commands/convert.ts')).convertFile(input, output),
    );

  program
    .command('procedure')
    .argument('<file>', 'a service or drive procedure, YAML or JSON')
    .description('check a service or drive procedure: printed as JSON, or its errors with line and field')
    .action(async (path: string) => (await import('./commands/procedure.ts')).procedure(path));

  program
    .command('coach')
    .argument('<log>', 'a recorded drive: .candump, .log, .csv or .json (capture)')
    .requiredOption('--procedure <id or file>', 'steady-cruise, seven-stations, general, or a drive procedure')
    .option('--before <file>', 'what is known of the car before the start, JSON')
    .description('a recorded drive against a drive procedure: what held, what broke, at which second, what remains')
    .action(async (log: string, o: { procedure: string; before?: string }) =>
      (await import('./commands/coach.ts')).coach(log, o),
    );

  program
    .command('plan')
    .argument('<request>', 'a drive-plan-request, JSON')
    .description("a drive procedure's enabling conditions against the car's state: when each holds, the earliest start")
    .action(async (request: string) => (await import('./commands/plan.ts')).plan(request));

  program
    .command('relearn')
    .argument('<log>', 'a recording after a repair: .candump, .log, .csv or .json (capture)')
    .option('--from <seconds>', 'what lies before is left out')
    .description('per bank where the total trim is going, and when the long term will be there')
    .action(async (log: string, o: { from?: string }) =>
      (await import('./commands/relearn.ts')).relearnFile(log, o.from),
    );

  program
    .command('pins')
    .argument('<readings>', 'pair readings JSON (docs/formats/pins.schema.json)')
    .description("voltmeter readings between a connector's pins to their voltages and roles")
    .action(async (readings: string) => (await import('./commands/pins.ts')).pins(readings));
  return program;
}

/** Carry out one call; resolves with its exit code. What it says goes to standard output and standard error. */
export async function jb(args: readonly string[]): Promise<number> {
  try {
    await commands().parseAsync(args, { from: 'user' });
    return 0;
  } catch (e) {
    // commander has already said what was wrong with the words of the call
    if (e instanceof Error && 'exitCode' in e) return e.exitCode === 0 ? 0 : 2;
    process.stderr.write(`jb: ${e instanceof Error ? e.message : String(e)}\n`);
    return e instanceof BadInput ? 2 : 1;
  }
}
