// Running work as it goes, as server-sent events. Leaving the page ends the stream, not the work.

import { eventStream } from '@/server/http/events';

export const GET = (request: Request) => eventStream(request);
export const dynamic = 'force-dynamic';
