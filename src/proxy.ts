// Runs before every request: refuses strangers, sets the headers that keep pages to themselves.

import { NextResponse, type NextRequest } from 'next/server';
import { contentPolicy, refuse } from '@/server/http/guard';

export function proxy(request: NextRequest): NextResponse {
  const refused = refuse(request.method, request.headers);
  if (refused)
    return new NextResponse(refused.why, {
      status: refused.status,
      headers: { 'content-type': 'text/plain' },
    });
  const nonce = btoa(crypto.randomUUID());
  const policy = contentPolicy(nonce, process.env.NODE_ENV === 'development');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'no-referrer');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  response.headers.set('cross-origin-resource-policy', 'same-origin');
  return response;
}
