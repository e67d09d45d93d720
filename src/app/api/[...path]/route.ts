// Everything below /api is one application (server/http/app.ts).

import { builtServer } from '@/server/built/load';

let app: ReturnType<Awaited<ReturnType<typeof builtServer>>['application']> | null = null;
const handle = async (request: Request) => (app ??= (await builtServer()).application()).fetch(request);
export { handle as GET, handle as POST, handle as DELETE };
export const dynamic = 'force-dynamic';
