import { type Role, type Shown, sentenceIn, shown, type UnitSystem } from '@just-balance/core/units';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from 'react';

export type Theme = 'bench' | 'night';

interface Preferences {
  units: UnitSystem;
  setUnits: (u: UnitSystem) => void;
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
  const [units, setUnits] = useState(() => stored<UnitSystem>('jb-units', ['metric', 'us'], 'metric'));
  const prefersDark = window.matchMedia('(prefers-color-scheme: dark)').matches;
  const [theme, setTheme] = useState(() =>
    stored<Theme>('jb-theme', ['bench', 'night'], prefersDark ? 'night' : 'bench'),
  );
  const [keys, setKeys] = useState(() => stored('jb-keys', ['on', 'off'], 'on') === 'on');
  const [tones, setTones] = useState(() => stored('jb-tones', ['on', 'off'], 'off') === 'on');
  useEffect(() => localStorage.setItem('jb-tones', tones ? 'on' : 'off'), [tones]);
  useEffect(() => localStorage.setItem('jb-units', units), [units]);
  useEffect(() => localStorage.setItem('jb-theme', theme), [theme]);
  // Before the children, not after them: plots take their colours from the page as they are drawn.
  document.documentElement.dataset.theme = theme;
  useEffect(() => localStorage.setItem('jb-keys', keys ? 'on' : 'off'), [keys]);
  const value = useMemo(
    () => ({ units, setUnits, theme, setTheme, keys, setKeys, tones, setTones }),
    [units, theme, keys, tones],
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

/** A sentence with metric figures, in the chosen units. */
export function useSay(): (text: string) => string {
  const { units } = usePreferences();
  return useCallback((text) => sentenceIn(text, units), [units]);
}

/** The same as an element. */
export function Say({ text }: { text: string }) {
  return <>{useSay()(text)}</>;
}

/** One figure with its unit, in the chosen system. */
export function Quantity({ value, unit, digits, role }: { value: number; unit: string; digits: number; role?: Role }) {
  const s = useShown()(value, unit, digits, role);
  return (
    <>
      <span className="figure font-[650]">{s.value.toFixed(s.digits)}</span> <span className="text-soft">{s.unit}</span>
    </>
  );
}
