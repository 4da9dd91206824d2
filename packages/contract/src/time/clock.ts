import { type Clock, UTC } from '@just-balance/core/handOver';
import { ValidateBy } from 'class-validator';

/** The clock of a time zone by its IANA name; null of what is none. */
export function clockOf(zone: string): Clock | null {
  let format: Intl.DateTimeFormat;
  try {
    format = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'medium' });
  } catch {
    return null;
  }
  return {
    zone,
    // Swedish dates are those of ISO 8601, with a space in place of the T.
    local: (iso) => {
      const at = new Date(iso);
      return Number.isNaN(at.getTime()) ? UTC.local(iso) : format.format(at).replace(' ', 'T');
    },
  };
}

/** A time zone that this machine knows. */
export function TimeZone(): PropertyDecorator {
  return ValidateBy({
    name: 'timeZone',
    validator: {
      validate: (v) => typeof v === 'string' && v.length <= 64 && clockOf(v) !== null,
      defaultMessage: () => 'a time zone by its IANA name, such as Europe/Lisbon',
    },
  });
}
