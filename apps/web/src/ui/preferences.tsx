import {
  figureText,
  numberText,
  type Role,
  type Said,
  type Shown,
  shown,
  UNIT_SYSTEMS,
  type UnitSystem,
  wordsOf,
} from '@just-balance/core/units';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from 'react';

export type Theme = 'bench' | 'night';

export const TORQUE_UNITS = ['N·m', 'lbf·ft', 'lbf·in'] as const;
export type TorqueUnit = (typeof TORQUE_UNITS)[number];

interface Preferences {
  units: UnitSystem;
  setUnits: (u: UnitSystem) => void;
  /** From metric to the US units chosen last, and back. */
  turnUnits: () => void;
  /** What the wrench in hand is marked in. */
  torque: TorqueUnit;
  setTorque: (u: TorqueUnit) => void;
  theme: Theme;
  setTheme: (t: Theme) => void;
  keys: boolean;
  setKeys: (on: boolean) => void;
  tones: boolean;
  setTones: (on: boolean) => void;
}

const Context = createContext<Preferences | null>(null);

function stored<T extends string>(key: string, allowed: readonly T[], fallback: T): T {
  const v = localStorage.getItem(key);
  return allowed.includes(v as T) ? (v as T) : fallback;
}

/** Units, light or dark, and single-key shortcuts; kept on this device. */
export function PreferencesProvider({ children }: { children: ReactNode }) {
  const [units, setUnits] = useState(() => stored<UnitSystem>('jb-units', UNIT_SYSTEMS, 'metric'));
  const [torque, setTorque] = useState(() =>
    stored<TorqueUnit>('jb-torque', TORQUE_UNITS, units === 'metric' ? 'N·m' : 'lbf·ft'),
  );
  useEffect(() => localStorage.setItem('jb-torque', torque), [torque]);
  const prefersDark = window.matchMedia('(prefers-color-scheme: dark)').matches;
  const [theme, setTheme] = useState(() =>
    stored<Theme>('jb-theme', ['bench', 'night'], prefersDark ? 'night' : 'bench'),
  );
  const [keys, setKeys] = useState(() => stored('jb-keys', ['on', 'off'], 'on') === 'on');
  const [tones, setTones] = useState(() => stored('jb-tones', ['on', 'off'], 'off') === 'on');
  useEffect(() => localStorage.setItem('jb-tones', tones ? 'on' : 'off'), [tones]);
  useEffect(() => {
    localStorage.setItem('jb-units', units);
    if (units !== 'metric') localStorage.setItem('jb-us-units', units);
  }, [units]);
  const turnUnits = useCallback(
    () => setUnits((u) => (u === 'metric' ? stored<UnitSystem>('jb-us-units', UNIT_SYSTEMS, 'us') : 'metric')),
    [],
  );
  useEffect(() => localStorage.setItem('jb-theme', theme), [theme]);
  // Before the children, not after them: plots take their colours from the page as they are drawn.
  document.documentElement.dataset.theme = theme;
  useEffect(() => localStorage.setItem('jb-keys', keys ? 'on' : 'off'), [keys]);
  const value = useMemo(
    () => ({ units, setUnits, turnUnits, torque, setTorque, theme, setTheme, keys, setKeys, tones, setTones }),
    [units, turnUnits, torque, theme, keys, tones],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function usePreferences(): Preferences {
  const p = useContext(Context);
  if (!p) throw new Error('PreferencesProvider is missing');
  return p;
}

/** A metric figure in the chosen units. */
export function useShown(): (value: number, unit: string, digits: number, role?: Role) => Shown {
  const { units } = usePreferences();
  return useCallback((value, unit, digits, role) => shown(value, unit, digits, units, role), [units]);
}

/** What core says, in the chosen units. */
export function useSay(): (s: Said) => string {
  const { units } = usePreferences();
  return useCallback((s) => wordsOf(s, units), [units]);
}

/** The same as an element. */
export function Say({ text }: { text: Said }) {
  return <>{useSay()(text)}</>;
}

/** The same, each typed figure in the figure face and never parted from its unit. */
export function SayFigures({ text }: { text: Said }) {
  const { units } = usePreferences();
  if (typeof text === 'string') return <span>{text}</span>;
  return (
    <span>
      {text.said.map((part, i) =>
        typeof part === 'string' ? (
          part
        ) : (
          <span key={i} className="figure font-[650] whitespace-nowrap">
            {figureText(part, units)}
          </span>
        ),
      )}
    </span>
  );
}

/** Several, one under the other. */
export function SentenceList({ sentences, className }: { sentences: readonly Said[]; className?: string }) {
  return (
    <ul className={className}>
      {sentences.map(useSay()).map((s) => (
        <li key={s}>{s}</li>
      ))}
    </ul>
  );
}

/** One figure with its unit, in the chosen system. */
export function Quantity({ value, unit, digits, role }: { value: number; unit: string; digits: number; role?: Role }) {
  const s = useShown()(value, unit, digits, role);
  return (
    <>
      <span className="figure font-[650]">{numberText(s.value, s.digits)}</span>{' '}
      <span className="text-soft">{s.unit}</span>
    </>
  );
}
