// Everything below /api is one application (server/http/app.ts).

import { application } from '@/server/http/app';

const app = application();
const handle = (request: Request) => app.fetch(request);
export { handle as GET, handle as POST, handle as DELETE };
export const dynamic = 'force-dynamic';
