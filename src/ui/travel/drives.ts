// Drives that what travels is reckoned with.

import { driveKinds } from '@/core/places/drives';
import type { RehearsalView } from '@/wire/views';

export interface Drive {
  id: string;
  name: string;
  free: number | null;
  speed: { write: number; smallFiles: number | null } | null;
  isMeasured: boolean;
}

/** Drives to be reckoned with: places that say how fast they are or how much room they have, then kinds. */
export function drivesOf(rehearsals: readonly RehearsalView[]): Drive[] {
  const own = rehearsals
    .filter(({ place }) => place.own && (place.free !== null || place.speed !== null))
    .map(({ place }): Drive => ({
      id: place.id,
      name: place.name,
      free: place.free,
      speed: place.speed,
      isMeasured: true,
    }));
  // One of which it is known how fast it is tells more.
  own.sort((a, b) => Number(b.speed !== null) - Number(a.speed !== null));
  return [...own, ...driveKinds.map((k): Drive => ({ ...k, free: null, isMeasured: false }))];
}
