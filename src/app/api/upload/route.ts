// Files dropped on the window, one a request, into the drop they belong to.

import { takeUpload } from '@/server/http/upload';

export const POST = (request: Request) => takeUpload(request);
export const dynamic = 'force-dynamic';
