/** A limit in milliseconds, as it is meant on an idle machine, for this one. */
export declare function patient(ms: number): number;
