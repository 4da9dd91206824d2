/** The seven stations of a job, in the order they are worked. */
export const STATIONS = ['complaint', 'readings', 'balance', 'service', 'prove', 'readiness', 'hand-over'] as const;
/** A station of a job. */
export type StationId = (typeof STATIONS)[number];

/** The stations in words. */
export const STATION_LABELS: Readonly<Record<StationId, string>> = {
  complaint: 'Complaint',
  readings: 'Readings',
  balance: 'Balance',
  service: 'Service',
  prove: 'Prove',
  readiness: 'Readiness',
  'hand-over': 'Hand-over',
};

/** A station of one job: whether it is done, and its one figure in words. */
export interface StationView {
  id: StationId;
  label: string;
  done: boolean;
  figure: string;
}
