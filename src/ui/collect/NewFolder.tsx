'use client';
// Where it will lie: the new folder as a tree that a hand can change. Arrows move in it; Alt + arrows move what is chosen out of its folder or into
// one; F2 renames, Insert makes a folder, Ctrl + Z takes the last step back. Dragging does the same, by pointer or (Enter on the handle) by keyboard.

import {
  ChevronRight,
  File,
  FileText,
  Folder,
  FolderPlus,
  GripVertical,
  Pencil,
  Undo2,
  Wand,
} from '../kit/icons';
import { useMemo, useState } from 'react';
import {
  Button as AriaButton,
  Tree,
  TreeItem,
  TreeItemContent,
  useDragAndDrop,
  type Key,
} from 'react-aria-components';
import type { HandStep } from '@/core/collect/hand';
import type { Placement } from '@/core/collect/placement';
import { reportNames } from '@/core/collect/report';
import { folderOf } from '@/core/files/treePath';
import { checkNewName } from '@/core/names/portable';
import { bytes, count } from '@/core/text/figures';
import { Button, MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { TextField } from '../kit/fields';
import { EnterForm } from '../kit/form';
import { Row, Soft } from '../kit/layout';
import { color } from '../theme/theme';
import { freshName, nodesOf, nudged, stepTo, stepsInto, treeOf, type Node } from './tree';
import type { Needs } from './needs';
import { TreeLook } from '../kit/tree';
import { useSome } from '../kit/some';

export function NewFolder({
  needs,
  placement,
  steps,
  onSteps,
  withReport,
}: {
  needs: Pick<Needs, 'files' | 'sets'>;
  placement: Placement;
  steps: readonly HandStep[];
  onSteps: (steps: HandStep[]) => void;
  withReport: boolean;
}) {
  const nodes = useMemo(() => treeOf(needs, placement), [needs, placement]);
  const byKey = useMemo(() => nodesOf(nodes), [nodes]);
  const [picked, setPicked] = useState<readonly string[]>([]);
  const [renaming, setRenaming] = useState<Node | null>(null);
  const [open, setOpen] = useState<ReadonlySet<string> | null>(null);
  const chosen = picked.flatMap((key) => byKey.get(key) ?? []);
  const [one] = chosen;
  const expanded =
    open ?? new Set(nodes.filter((n) => n.isFolder && n.children.length <= 40).map((n) => n.key));
  const act = (more: readonly HandStep[], then?: { open?: string; picked?: string[] }) => {
    if (more.length === 0) return;
    onSteps([...steps, ...more]);
    if (then?.open) setOpen(new Set([...expanded, `d:${then.open}`]));
    if (then?.picked) setPicked(then.picked);
  };
  /** Folders have their path for a key: those that move are another key then. */
  const into = (all: readonly Node[], folder: string) =>
    act(stepsInto(all, folder), {
      ...(folder === '' ? {} : { open: folder }),
      picked: all.map((n) => (n.isFolder ? `d:${folder === '' ? '' : `${folder}/`}${n.name}` : n.key)),
    });
  const make = () => {
    const at = one === undefined ? '' : one.isFolder ? one.path : folderOf(one.path);
    const path = `${at === '' ? '' : `${at}/`}${freshName(nodes, at)}`;
    act([{ do: 'make', path }], { ...(at === '' ? {} : { open: at }), picked: [`d:${path}`] });
  };
  const back = () =>
    act(chosen.map((n) => (n.isFolder ? { do: 'rule-in', path: n.path } : { do: 'rule', from: n.from! })));
  const undo = () => onSteps(steps.slice(0, -1));
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((k) => ({ 'text/plain': byKey.get(String(k))?.path ?? '' })),
    getDropOperation: () => 'move',
    onMove(e) {
      const dragged = [...e.keys].flatMap((k) => byKey.get(String(k)) ?? []);
      const target = byKey.get(String(e.target.key));
      if (!target) return;
      into(dragged, e.target.dropPosition === 'on' && target.isFolder ? target.path : folderOf(target.path));
    },
  });
  const hear = (e: React.KeyboardEvent) => {
    const stop = () => {
      e.preventDefault();
      e.stopPropagation();
    };
    if ((e.ctrlKey || e.metaKey) && !e.shiftKey && e.key.toLowerCase() === 'z') {
      stop();
      if (steps.length > 0) undo();
    } else if (e.key === 'Insert') {
      stop();
      make();
    } else if (one && e.key === 'F2') {
      stop();
      setRenaming(one);
    } else if (one && e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
      stop();
      const to = nudged(nodes, one, e.key === 'ArrowLeft' ? 'out' : 'in');
      if (to !== null) into(chosen, to);
    }
  };
  return (
    <>
      <Row $wrap>
        <PlainButton onPress={make}>
          <FolderPlus size={15} /> New folder
        </PlainButton>
        <PlainButton isDisabled={chosen.length !== 1} onPress={() => one && setRenaming(one)}>
          <Pencil size={14} /> Rename…
        </PlainButton>
        <PlainButton isDisabled={!chosen.some((n) => n.byHand)} onPress={back}>
          <Wand size={14} /> Back to the rule
        </PlainButton>
        <PlainButton isDisabled={steps.length === 0} onPress={undo}>
          <Undo2 size={15} /> Undo step
        </PlainButton>
      </Row>
      <TreeLook onKeyDownCapture={hear}>
        <Tree
          aria-label="Where it will lie"
          selectionMode="multiple"
          selectionBehavior="replace"
          selectedKeys={picked}
          onSelectionChange={(keys) => setPicked(keys === 'all' ? [...byKey.keys()] : [...keys].map(String))}
          expandedKeys={expanded}
          onExpandedChange={(keys: Set<Key>) => setOpen(new Set([...keys].map(String)))}
          dragAndDropHooks={dragAndDropHooks}
          renderEmptyState={() => <Soft>Nothing comes along.</Soft>}
        >
          {nodes.map((n) => (
            <NodeItem key={n.key} node={n} isOpen={(key) => expanded.has(key)} />
          ))}
        </Tree>
        {withReport && (
          <div className="line" style={{ paddingLeft: 32 }}>
            <FileText size={15} aria-hidden />
            <span className="node">{reportNames.page}</span>
            <Soft className="told">opens in any browser; beside it the same as JSON and as a table</Soft>
          </div>
        )}
      </TreeLook>
      <Soft style={{ fontSize: 13 }}>Drag, or Alt + left and right. F2 renames, Insert makes a folder.</Soft>
      {renaming && (
        <Rename
          node={renaming}
          onClose={() => setRenaming(null)}
          onRename={(name) => {
            const parent = folderOf(renaming.path);
            const to = `${parent === '' ? '' : `${parent}/`}${name}`;
            const step = stepTo(renaming, to);
            if (step)
              act([step], {
                picked: [renaming.isFolder ? `d:${to}` : renaming.key],
                ...(renaming.isFolder ? { open: to } : {}),
              });
            setRenaming(null);
          }}
        />
      )}
    </>
  );
}

function NodeItem({
  node: n,
  isOpen,
  isSaid = false,
}: {
  node: Node;
  isOpen: (key: string) => boolean;
  /** That a hand placed it stands at a folder around it. */
  isSaid?: boolean;
}) {
  const [shown, rest] = useSome(n.children, 'more line');
  return (
    <TreeItem
      id={n.key}
      textValue={n.name}
      hasChildItems={n.children.length > 0}
      style={({ isSelected }) =>
        isSelected
          ? { background: color.greenTint, boxShadow: `inset 0 0 0 1px ${color.greenText}` }
          : n.byHand
            ? { background: color.greenTint }
            : {}
      }
    >
      <TreeItemContent>
        <div className="line">
          <AriaButton slot="drag" aria-label={`Drag ${n.name}`}>
            <GripVertical size={14} />
          </AriaButton>
          {n.children.length > 0 ? (
            <AriaButton slot="chevron" aria-label={`Open or close ${n.name}`}>
              <ChevronRight size={15} />
            </AriaButton>
          ) : (
            <span style={{ width: 18, flex: 'none' }} />
          )}
          {n.isFolder ? <Folder size={15} aria-hidden /> : <File size={15} aria-hidden />}
          <span className="grow">
            <span className={n.isFolder ? 'node folder' : 'node'} title={n.path}>
              {n.name}
              {n.isFolder && '/'}
            </span>
            {n.clash !== null ? (
              <strong className="told brick">{n.clash}</strong>
            ) : n.told !== null ? (
              <strong className="told amber">{n.told}</strong>
            ) : (
              n.byHand && !isSaid && <Soft className="told">by hand</Soft>
            )}
          </span>
          <span className="figure">
            {n.isFolder || n.files > 1 ? `${count(n.files, 'file')} · ` : ''}
            {bytes(n.size)}
          </span>
        </div>
      </TreeItemContent>
      {isOpen(n.key) && shown.map((c) => <NodeItem key={c.key} node={c} isOpen={isOpen} isSaid={n.byHand} />)}
      {isOpen(n.key) && rest && (
        <TreeItem id={`more ${n.key}`} textValue="more">
          <TreeItemContent>
            <div className="line" style={{ paddingLeft: 50 }}>
              {rest}
            </div>
          </TreeItemContent>
        </TreeItem>
      )}
    </TreeItem>
  );
}

function Rename({
  node,
  onRename,
  onClose,
}: {
  node: Node;
  onRename: (name: string) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(node.name);
  const wrong = name === '' ? 'A name is missing.' : checkNewName(name)[0]?.message;
  const rename = () => wrong === undefined && onRename(name);
  return (
    <Dialog title={`Rename ${node.name}`} width={520} onClose={onClose}>
      <EnterForm onEnter={rename}>
        <TextField
          label="Name in the new folder"
          mono
          autoFocus
          value={name}
          error={wrong}
          onChange={setName}
          description={
            node.files > 1 && !node.isFolder
              ? 'Frames and tiles keep their names; move them instead.'
              : 'The source keeps its name.'
          }
        />
      </EnterForm>
      <Row style={{ justifyContent: 'flex-end' }}>
        <Button onPress={onClose}>Cancel</Button>
        <MainButton isDisabled={wrong !== undefined} onPress={rename}>
          Rename
        </MainButton>
      </Row>
    </Dialog>
  );
}
