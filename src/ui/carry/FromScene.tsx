'use client';
// From which scene, and which of its nodes: picked in a tree, by a name or pattern, or in space.

import { readNodes } from '@/wire/routes/nodes';
import { listAssets } from '@/wire/routes/carry';
import { readScene } from '@/wire/routes/references';
import { readOverview, scanWorkspace } from '@/wire/routes/workspaces';
import { useQuery } from '@tanstack/react-query';
import { Box, Camera, ChevronRight, Lightbulb, Shapes } from '../kit/icons';
import dynamic from 'next/dynamic';
import { useMemo, useState } from 'react';
import { Button as AriaButton, Tree, TreeItem, TreeItemContent, type Key } from 'react-aria-components';
import { extensionOf } from '@/core/files/treePath';
import { nodesMeant, topmost, type SceneNode } from '@/core/nodes/sceneNodes';
import { kindOfName } from '@/core/layouts/homes';
import { kinFormats } from '@/core/nodes/kin';
import { count } from '@/core/text/figures';
import { call, shapeOf } from '../kit/api';
import { Button, Chip } from '../kit/buttons';
import { Choose, RowTick, TextField } from '../kit/fields';
import { Row, Sheet, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { linesAtOnce, TreeLook } from '../kit/tree';
import { useJob, useServerState, useWorkspaceId } from '../kit/work';
import { OtherRoot } from './OtherRoot';
import { childrenOf, withAllBelow } from './nodeTree';

const Stage = dynamic(() => import('../preview/Stage'), {
  ssr: false,
  loading: () => <Soft>Loading …</Soft>,
});
const isScene = (path: string) => /^(?:scene|model)$/.test(kindOfName(path)) || extensionOf(path) === '.mtlx';
const parted: ReadonlySet<string> = new Set(kinFormats.flat());

/** Scenes of a folder that parts can be taken from, or put into. */
export function useScenes(root: string): { scenes: string[] | null; error: unknown } {
  const { scenes, error } = useAnyScenes(root);
  return { scenes: scenes?.filter((p) => parted.has(extensionOf(p))) ?? null, error };
}

/** Scenes of a folder, of any format. */
export function useAnyScenes(root: string): { scenes: string[] | null; error: unknown } {
  const id = useWorkspaceId();
  const run = useJob();
  const { data, error } = useQuery({
    queryKey: ['assets', id, root],
    enabled: root !== '',
    queryFn: () => run(listAssets, { id }, { from: root }),
  });
  const scenes = data?.files.map((f) => f.path).filter(isScene);
  return { scenes: scenes ?? null, error };
}

export function useNodes(
  root: string,
  scene: string,
): { nodes: readonly SceneNode[] | null; error: unknown } {
  const id = useWorkspaceId();
  const run = useJob();
  const { data, error } = useQuery({
    queryKey: ['nodes', id, root, scene],
    enabled: root !== '' && scene !== '',
    retry: false,
    queryFn: () => run(readNodes, { id }, { root, scene }),
  });
  return { nodes: scene === '' ? null : (data?.nodes ?? null), error };
}

export function FromScene({
  root,
  onRoot,
  scene,
  onScene,
  chosen,
  onChosen,
}: {
  root: string;
  onRoot: (root: string) => void;
  scene: string;
  onScene: (scene: string) => void;
  /** Ids of nodes, none of them below another. */
  chosen: readonly string[];
  onChosen: (ids: string[]) => void;
}) {
  const { scenes, error: lost } = useScenes(root);
  const { nodes, error } = useNodes(root, scene);
  const { data: state } = useServerState();
  const [word, setWord] = useState('');
  const [isSpace, setSpace] = useState(false);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const workspace = state?.workspaces.find((w) => w.root === root)?.id;
  const tree = useMemo(() => childrenOf(nodes ?? []), [nodes]);
  const found = useMemo(() => (word === '' || !nodes ? null : nodesMeant(nodes, word)), [nodes, word]);
  const choose = (ids: readonly string[]) =>
    onChosen(
      topmost(
        (nodes ?? []).filter((n) => ids.includes(n.id)),
        nodes ?? [],
      ).map((n) => n.id),
    );
  return (
    <Sheet
      aria-label="From"
      style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0, overflow: 'auto' }}
    >
      <OtherRoot label="From" value={root} onChange={onRoot} without={null} purpose="Take a part" />
      {root !== '' && (
        <Choose
          label="Scene"
          value={scene}
          onChange={onScene}
          options={[
            ...(scene === '' || !scenes?.includes(scene)
              ? [[scene, scene === '' ? 'choose a scene' : scene] as const]
              : []),
            ...(scenes ?? []).map((s) => [s, s] as const),
          ]}
        />
      )}
      {(error ?? lost) != null && <ErrorNotice error={shapeOf(error ?? lost)} />}
      {scene !== '' && !nodes && !error && <Soft>Looking …</Soft>}
      {scenes?.length === 0 && <Soft>There is no scene here that parts can be taken from.</Soft>}
      {nodes && (
        <>
          <Row $wrap style={{ alignItems: 'flex-end' }}>
            <div style={{ flex: '1 1 150px', minWidth: 0 }}>
              <TextField label="Name or pattern" placeholder="lamp*" value={word} onChange={setWord} />
            </div>
            {found && found.length > 0 && (
              <Button onPress={() => choose([...chosen, ...found.map((n) => n.id)])}>
                Pick {found.length === 1 ? 'it' : `all ${found.length}`}
              </Button>
            )}
            {workspace !== undefined && (
              <Chip isSelected={isSpace} onChange={setSpace}>
                <Box size={15} aria-hidden /> In space
              </Chip>
            )}
          </Row>
          {isSpace && workspace !== undefined ? (
            <InSpace workspace={workspace} scene={scene} nodes={nodes} chosen={chosen} onChosen={choose} />
          ) : (
            <TreeLook>
              <Tree
                key={found ? 'found' : 'all'}
                aria-label="Nodes of the scene"
                selectionMode="multiple"
                selectionBehavior="toggle"
                escapeKeyBehavior="none"
                selectedKeys={chosen}
                onSelectionChange={(keys) =>
                  choose(keys === 'all' ? (found ?? nodes).map((n) => n.id) : [...keys].map(String))
                }
                expandedKeys={open}
                onExpandedChange={(keys: Set<Key>) => setOpen(new Set([...keys].map(String)))}
                renderEmptyState={() => (
                  <Soft>{found ? 'Nothing is called so.' : 'The scene has no nodes.'}</Soft>
                )}
              >
                {found
                  ? found
                      .slice(0, linesAtOnce)
                      .map((n) => <NodeItem key={n.id} node={n} tree={null} open={open} whole />)
                  : (tree.get(null) ?? [])
                      .slice(0, linesAtOnce)
                      .map((n) => <NodeItem key={n.id} node={n} tree={tree} open={open} />)}
              </Tree>
              {(found ?? tree.get(null) ?? []).length > linesAtOnce && (
                <Soft>
                  and {count((found ?? tree.get(null) ?? []).length - linesAtOnce, 'other')}: say more of its
                  name
                </Soft>
              )}
            </TreeLook>
          )}
        </>
      )}
    </Sheet>
  );
}

const icons: Readonly<Record<string, typeof Box>> = {
  camera: Camera,
  light: Lightbulb,
  mesh: Shapes,
  'skinned mesh': Shapes,
  Mesh: Shapes,
  Camera,
};

function NodeItem({
  node,
  tree,
  open,
  whole = false,
}: {
  node: SceneNode;
  tree: ReadonlyMap<string | null, readonly SceneNode[]> | null;
  open: ReadonlySet<string>;
  whole?: boolean;
}) {
  const below = tree?.get(node.id) ?? [];
  const Icon = icons[node.kind] ?? Box;
  return (
    <TreeItem id={node.id} textValue={whole ? node.path : node.name} hasChildItems={below.length > 0}>
      <TreeItemContent>
        <div className="line">
          {below.length > 0 ? (
            <AriaButton slot="chevron" aria-label={`Open or close ${node.name}`}>
              <ChevronRight size={15} />
            </AriaButton>
          ) : (
            <span style={{ width: 18, flex: 'none' }} />
          )}
          <RowTick />
          <Icon size={15} aria-hidden />
          <span className="grow">
            <span className="node" title={node.path}>
              {whole ? node.path : node.name}
            </span>
          </span>
          <span className="figure">{node.kind}</span>
        </div>
      </TreeItemContent>
      {open.has(node.id) &&
        below.slice(0, linesAtOnce).map((n) => <NodeItem key={n.id} node={n} tree={tree} open={open} />)}
    </TreeItem>
  );
}

/** The scene in space: an object that is clicked is picked, or not any more. */
function InSpace({
  workspace,
  scene,
  nodes,
  chosen,
  onChosen,
}: {
  workspace: string;
  scene: string;
  nodes: readonly SceneNode[];
  chosen: readonly string[];
  onChosen: (ids: string[]) => void;
}) {
  const run = useJob();
  const { data, error } = useQuery({
    queryKey: ['scene', workspace, scene],
    staleTime: 30_000,
    queryFn: async () => {
      // Of a workspace that was never opened nothing is known yet.
      const { scanned } = await call(readOverview, { id: workspace }, {});
      if (scanned === null) await run(scanWorkspace, { id: workspace }, {});
      return call(readScene, { id: workspace }, { scene });
    },
  });
  const marked = useMemo(() => withAllBelow(nodes, chosen), [nodes, chosen]);
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Loading …</Soft>;
  return (
    <div style={{ display: 'flex', flex: 1, minHeight: 260 }}>
      <Stage
        workspace={workspace}
        view={data}
        marked={none}
        markedNodes={marked}
        hasGrid={false}
        onPick={({ node, object }) => {
          const id = node ?? nodes.find((n) => n.name === object)?.id;
          if (id === undefined) return;
          onChosen(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
        }}
        onLoaded={nothing}
      />
    </div>
  );
}

const none: readonly string[] = [];
const nothing = () => {};
