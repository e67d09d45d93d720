// Shape of the note about a version, .satchel/versions/<scene>.json.

import { z } from 'zod';

export const versionNote = z.object({ note: z.string(), from: z.string(), saved: z.string() });
