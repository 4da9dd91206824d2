/** What an engine must have for a row of the tables to be about it. */
export type Need = 'maf' | 'map' | 'turbo' | 'petrol' | 'bank2';

/** What of an engine decides that; `banks` as they are resolved. */
export interface EngineKind {
  metering: string;
  induction?: string;
  fuel: string;
  /** A pressure of its manifold or its boost has been read: what is read is fitted, whatever meters the fuel. */
  pressureRead?: boolean;
}

/** Whether an engine has all of it. */
export function engineHas(needs: readonly Need[] | undefined, v: EngineKind, banks: 1 | 2): boolean {
  return (needs ?? []).every((need) => {
    switch (need) {
      case 'maf':
        return v.metering !== 'speed-density';
      case 'map':
        // A turbocharger is governed by what its boost sensor says. Common practice, no source.
        return v.metering !== 'maf' || v.induction === 'turbo' || v.pressureRead === true;
      case 'turbo':
        return v.induction === 'turbo';
      case 'petrol':
        return v.fuel === 'petrol';
      case 'bank2':
        return banks === 2;
    }
    return true;
  });
}
