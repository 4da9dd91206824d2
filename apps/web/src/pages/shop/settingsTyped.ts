import { type SettingsView, ShopSettingsRequest } from '@just-balance/contract';
import { HAZARDS, TESTS } from '@just-balance/core/catalogue';
import { DEFAULT_LIMITS } from '@just-balance/core/trims';
import { type UnitSystem } from '@just-balance/core/units';
import { dayOf, dayText, EMPTY_DAY } from '../../job/record/DayFields.tsx';
import { typed } from '../../ui/typed.ts';
import { USUAL_TOOLS } from './tools.ts';

export interface Typed {
  watchPct: string;
  actPct: string;
  tools: string[];
  hazards: string[];
  toolHz: string;
  altitudeM: string;
  perHour: string;
  currency: string;
  /** A part a line, its price behind a semicolon. */
  prices: string;
  /** What stands under the shop's name on its papers. */
  does: string;
  address: string;
  phone: string;
  /** Id of the rule that holds here; empty: none. */
  rule: string;
  /** By test id; empty where the catalogue's own stand. */
  minutes: Record<string, string>;
}

export const text = (v: number | undefined) => (v === undefined ? '' : String(v));

export function startOf({ settings: s }: SettingsView, units: UnitSystem): Typed {
  return {
    watchPct: text(s.limits?.watchPct ?? DEFAULT_LIMITS.watchPct),
    actPct: text(s.limits?.actPct ?? DEFAULT_LIMITS.actPct),
    tools: s.tools ?? USUAL_TOOLS,
    hazards: s.hazards ?? Object.keys(HAZARDS),
    toolHz: text(s.toolHz),
    altitudeM: dayText(s.place ?? {}, units).altitudeM,
    perHour: text(s.labour?.perHour),
    currency: s.labour?.currency ?? '',
    prices: Object.entries(s.labour?.parts ?? {})
      .map(([part, price]) => `${part}; ${price}`)
      .join('\n'),
    does: s.letterhead?.does ?? '',
    address: s.letterhead?.address ?? '',
    phone: s.letterhead?.phone ?? '',
    rule: s.place?.rule ?? '',
    minutes: Object.fromEntries(TESTS.map((t) => [t.id, text(s.minutes?.[t.id])])),
  };
}

/** Prices as they were typed, and the first line that is none. */
export function pricesOf(typedPrices: string): { prices: Record<string, number>; wrong: string | null } {
  const prices: Record<string, number> = {};
  for (const [i, line] of typedPrices.split('\n').entries()) {
    if (line.trim() === '') continue;
    const [, part, price] = /^(.+);\s*([^;]+)$/.exec(line.trim()) ?? [];
    const value = Number(typed(price ?? ''));
    if (!part || !price || !Number.isFinite(value) || value < 0)
      return { prices, wrong: `line ${i + 1}: a part, a semicolon, a price` };
    prices[part.trim().toLowerCase()] = value;
  }
  return { prices, wrong: null };
}

/** What was typed over what is kept: a list that names all that is usual is none, so that a new tool of the catalogue counts. */
export function bodyOf(t: Typed, kept: SettingsView, units: UnitSystem): ShopSettingsRequest {
  const {
    toolHz: _hz,
    tools: _tools,
    hazards: _hazards,
    place: _place,
    labour: _labour,
    letterhead: _letterhead,
    ...others
  } = kept.settings;
  const letterhead = Object.fromEntries(
    (['does', 'address', 'phone'] as const).flatMap((k) => (t[k].trim() === '' ? [] : [[k, t[k].trim()]])),
  );
  const { altitudeM } = dayOf({ ...EMPTY_DAY, altitudeM: t.altitudeM }, units);
  const some = (key: 'tools' | 'hazards', all: readonly string[]) =>
    all.length === t[key].length && all.every((x) => t[key].includes(x)) ? {} : { [key]: t[key] };
  return {
    rev: kept.rev,
    settings: {
      ...others,
      limits: { watchPct: Number(typed(t.watchPct)), actPct: Number(typed(t.actPct)) },
      ...some('tools', USUAL_TOOLS),
      ...some('hazards', Object.keys(HAZARDS)),
      ...(t.toolHz.trim() === '' ? {} : { toolHz: Number(typed(t.toolHz)) }),
      ...(altitudeM === undefined && t.rule === ''
        ? {}
        : { place: { ...(altitudeM === undefined ? {} : { altitudeM }), ...(t.rule === '' ? {} : { rule: t.rule }) } }),
      ...(t.perHour.trim() === '' && t.currency.trim() === '' && t.prices.trim() === ''
        ? {}
        : {
            labour: {
              perHour: Number(typed(t.perHour || 'x')),
              currency: t.currency.trim().toUpperCase(),
              ...(t.prices.trim() === '' ? {} : { parts: pricesOf(t.prices).prices }),
            },
          }),
      ...(Object.keys(letterhead).length === 0 ? {} : { letterhead }),
      minutes: Object.fromEntries(
        Object.entries(t.minutes).flatMap(([id, v]) => (v.trim() === '' ? [] : [[id, Number(typed(v))]])),
      ),
    },
  };
}
