import { type Browser, jobOf, LONG, newJob } from './app.ts';

/** The simulated bays as a test uses them; `browser` once it is open. */
export function bays(browser: () => Browser) {
  let open: string | null = null;
  const bay = (n: number, command: string, more = {}) => browser().post(`/bays/${n}`, { command, ...more });
  const status = async (id: string) => (await browser().json(`/api/jobs/${id}/captures/running`)).status;
  return {
    bay,
    status,
    job: (id: string) => jobOf(browser(), id),
    /** A job on what stands in a bay; the browser at its Readings, its caution acknowledged. */
    async jobOn(n: number): Promise<string> {
      const { vehicle } = (await browser().json('/api/bays')).find((b: { bay: number }) => b.bay === n);
      open = await newJob(browser(), {
        vehicle,
        complaint: { symptoms: ['rough-idle'] },
        ambient: { baroKPa: 99.1, airC: 18 },
        adapter: `sim:${n}`,
      });
      await browser().go(`/jobs/${open}/readings`);
      await browser().press('Understood');
      return open;
    },
    /** Until a bay's engine runs this fast. */
    async reaches(n: number, rpm: number): Promise<void> {
      const now = async () => (await browser().json('/api/bays')).find((b: { bay: number }) => b.bay === n).rpm;
      await browser().driver.wait(async () => Math.abs((await now()) - rpm) < 60, LONG, `bay ${n} at ${rpm} rpm`);
    },
    /** After each test: one that failed leaves its bay to the next. */
    async release(): Promise<void> {
      if (!open) return;
      const { captureId } = (await status(open).catch(() => null)) ?? {};
      if (captureId) await browser().post(`/jobs/${open}/captures/${captureId}/command`, { command: 'stop' });
      open = null;
    },
  };
}
