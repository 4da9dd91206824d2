export interface AdapterView {
  address: string;
  label: string;
  simulated: boolean;
}

export interface LinkStatus {
  adapter: string;
  state: 'off' | 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost';
  detail: string;
  valuesPerSecond: number;
  /** Samples of each channel in the last second, smoothed. */
  rates: Record<string, number>;
}
