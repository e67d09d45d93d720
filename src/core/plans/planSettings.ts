// A change of what a workspace says of itself.

import type { Plan } from '../changes/plan';
import type { WorkspaceFile } from '../layouts/workspace';
import { markerStep, type MarkedWorkspace } from './marker';

/** Changes what the marker says, and nothing else. */
export async function planSettings(
  workspace: MarkedWorkspace,
  file: WorkspaceFile,
  title: string,
): Promise<Plan> {
  const step = await markerStep(workspace, file);
  return {
    kind: 'settings',
    title,
    steps: step ? [step] : [],
    notes: step ? [] : [{ level: 'info', code: 'nothing', message: 'It is so already.' }],
    paths: [],
    readiness: null,
  };
}
