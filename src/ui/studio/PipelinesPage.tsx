'use client';
// For pipelines: keys by which programs come in, and web hooks by which they hear of what was done. For those who manage the server.

import { Page } from '../kit/Page';
import { useServerState } from '../kit/work';
import { Hooks } from './Hooks';
import { Keys } from './Keys';

export function PipelinesPage() {
  const me = useServerState().data?.me ?? null;
  const manages = me?.role === 'manage';
  return (
    <Page
      title="Pipelines"
      answer={
        manages
          ? 'Programs do the same as people here, as far as their key goes: by the interface (/api/openapi.json), or by the command line with --server.'
          : me && 'Those who manage this server make keys and web hooks.'
      }
    >
      {manages && (
        <>
          <Keys />
          <Hooks />
        </>
      )}
    </Page>
  );
}
