// All JSON endpoints go through one table (server/http/endpoints.ts).

import { dispatch } from '@/server/http/handle';
import { endpoints } from '@/server/http/endpoints';

const handle = (request: Request) => dispatch(endpoints, request);
export { handle as GET, handle as POST, handle as DELETE };
export const dynamic = 'force-dynamic';
