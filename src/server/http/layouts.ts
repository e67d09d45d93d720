// Layouts: kept, converted, made from a folder that is there.

import { AppError } from '@/core/errors';
import { isWithin, nameOf } from '@/core/files/treePath';
import { layoutOfFolders, readLayoutText, writeLayout } from '@/core/layouts/layout';
import type { Recognised } from '@/core/plans/planAdopt';
import { parseLayoutJson, layoutJsonOf } from '@/wire/layout';
import type { LayoutView } from '@/wire/views';
import { removeLayout, saveLayout } from '../workspaces/layoutLibrary';
import { folderIn } from './folders';
import { convertLayout, dropLayout, keepLayout, layoutFromFolder, listLayouts } from '@/wire/routes/layouts';
import { endpoint } from './handle';
import { layoutOf, layoutSource, layoutViews } from './workspaceView';

export const layoutEndpoints = [
  endpoint(listLayouts, async (h): Promise<LayoutView[]> => layoutViews(h)),
  endpoint(keepLayout, async (h, input) => {
    const saved = saveLayout(h.dataFolder, input.text, input.replaces);
    return { id: saved.id };
  }),
  endpoint(dropLayout, async (h, input) => {
    removeLayout(h.dataFolder, input.id);
  }),
  endpoint(convertLayout, async (_h, input) => {
    if (input.json !== undefined) return { text: writeLayout(parseLayoutJson(input.json)), json: input.json };
    const read = readLayoutText(input.text ?? '');
    if (read.problems[0])
      throw new AppError(
        'bad-layout',
        read.problems[0].message,
        'Nothing was changed.',
        read.problems.map((p) => `Line ${p.line}: ${p.message}`),
      );
    return { text: input.text ?? '', json: `${JSON.stringify(layoutJsonOf(read), null, 2)}\n` };
  }),
  endpoint(layoutFromFolder, async (h, input) => {
    const at = await folderIn(h, input.path);
    const layout = layoutOf(h, { id: 'game-environment' });
    return h.jobs.start({
      order: { work: 'recognise', root: at, layout: layoutSource(layout) },
      title: `Look through ${nameOf(at)}`,
      workspace: null,
      finish: async (result) => {
        const found = result as Recognised;
        const folders = found.folders
          .map((f) => f.path)
          .filter(
            (p) =>
              p !== '' &&
              !p.split('/').some((part) => part.startsWith('.')) &&
              !found.nested.some((n) => isWithin(p, n)),
          );
        return { text: writeLayout({ tree: layoutOfFolders(folders, found.homes), name: nameOf(at) }) };
      },
    });
  }),
];
