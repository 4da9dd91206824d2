/** Demo sign-ins, shown on the sign-in page only with JB_DEMO=1. Invented people. */
export const DEMO_ACCOUNTS = [
  { email: 'okafor@linden.example', password: 'bench-demo-1', name: 'R. Okafor', role: 'lead' },
  { email: 'duarte@linden.example', password: 'bench-demo-2', name: 'M. Duarte', role: 'technician' },
] as const;
