// Several workspaces made at once in the folder that holds them.

import { ownFolder } from '../files/records';
import type { Note, Plan, Step } from '../changes/plan';
import { join, treePath } from '../files/treePath';
import type { Layout } from '../layouts/layout';
import type { WorkspaceFile } from '../layouts/workspace';
import { checkNewName, foldName } from '../names/portable';
import { newWorkspaceFile, planCreate } from './planCreate';
import type { Workspace } from './workspace';

/** What is wrong with names of new workspaces in one folder, by name; names without trouble are absent. */
export function checkNames(names: readonly string[], taken: Iterable<string>): Map<string, string> {
  const wrong = new Map<string, string>();
  const seen = new Map<string, string>([...taken].map((n) => [foldName(n), n]));
  for (const name of names) {
    const [problem] = checkNewName(name);
    const twin = seen.get(foldName(name));
    if (problem) wrong.set(name, problem.message);
    else if (twin !== undefined)
      wrong.set(
        name,
        twin === name
          ? 'It is there already, or twice in the list.'
          : `“${twin}” differs only in letter case.`,
      );
    seen.set(foldName(name), name);
  }
  return wrong;
}

/** Creates several workspaces in one folder, which is the tree's root. `parent`: that folder, for the title. */
export async function planCreateMany(
  tree: Workspace['tree'],
  request: {
    names: readonly string[];
    layout: Layout;
    without: readonly string[];
    category?: string | undefined;
    created: string;
  },
): Promise<Plan> {
  const taken = ((await tree.entries(treePath(''))) ?? []).map((e) => e.name);
  const notes: Note[] = [...checkNames(request.names, taken)].map(([name, message]) => ({
    level: 'blocker',
    code: 'bad-name',
    message: `“${name}”: ${message}`,
    path: name,
  }));
  const steps: Step[] = [];
  if (notes.length === 0)
    for (const name of request.names) {
      const file: WorkspaceFile = {
        ...newWorkspaceFile({ ...request, name }),
        ...(request.category ? { category: request.category } : {}),
      };
      steps.push(
        { do: 'make-folder', path: treePath(name), fresh: true },
        { do: 'make-folder', path: join(name, ownFolder) },
      );
      for (const step of planCreate(file).steps) steps.push({ ...step, path: join(name, step.path) });
    }
  if (request.names.length === 0)
    notes.push({ level: 'blocker', code: 'nothing', message: 'The list names no workspace.' });
  return {
    kind: 'create',
    title: `Create ${request.names.length} workspaces`,
    steps,
    notes,
    paths: [],
    readiness: null,
  };
}
