// What the disk said a moment ago, for lists that every page asks for at once. Whoever is let in to one of them is let in by the disk of that moment (allowed.ts).

import { lately } from '../lately';
import { isThere, realInTime } from './asking';

const holdsFor = 2000; // ms

/** Whether something lay at a path a moment ago. */
export const thereLately = lately(holdsFor, isThere);

/** A path without links, as it was a moment ago; null where nothing lay there. */
export const realLately = lately(holdsFor, realInTime);
