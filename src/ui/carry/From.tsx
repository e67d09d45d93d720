'use client';
// From where, and what: another known workspace or any folder, and files and folders of it, picked in a tree or by search.

import { listAssets } from '@/wire/routes/carry';
import { useQuery } from '@tanstack/react-query';
import { ChevronRight, File, Folder } from '../kit/icons';
import { useMemo, useState } from 'react';
import { Button as AriaButton, Tree, TreeItem, TreeItemContent, type Key } from 'react-aria-components';
import { folderOf, isWithin, nameOf } from '@/core/files/treePath';
import { bytes, count } from '@/core/text/figures';
import { shapeOf } from '../kit/api';
import { RowTick, TextField } from '../kit/fields';
import { Mono, Row, Sheet, Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Path } from '../kit/Path';
import { useJob, useWorkspaceId } from '../kit/work';
import { linesAtOnce, TreeLook } from '../kit/tree';
import { OtherRoot } from './OtherRoot';
import { Others } from './Others';

interface Branch {
  path: string;
  folders: Branch[];
  files: { path: string; size: number }[];
  size: number;
  count: number;
}

function branchesOf(files: readonly { path: string; size: number }[]): Branch {
  const top: Branch = { path: '', folders: [], files: [], size: 0, count: 0 };
  const known = new Map<string, Branch>([['', top]]);
  const at = (path: string): Branch => {
    const there = known.get(path);
    if (there) return there;
    const branch: Branch = { path, folders: [], files: [], size: 0, count: 0 };
    known.set(path, branch);
    at(folderOf(path)).folders.push(branch);
    return branch;
  };
  for (const file of files) {
    at(folderOf(file.path)).files.push(file);
    for (let path: string = folderOf(file.path); ; path = folderOf(path)) {
      const branch = at(path);
      branch.size += file.size;
      branch.count++;
      if (path === '') break;
    }
  }
  return top;
}

export function From({
  root,
  from,
  onFrom,
  assets,
  onAssets,
}: {
  /** Of the workspace that things come into. */
  root: string;
  from: string;
  onFrom: (folder: string) => void;
  assets: readonly string[];
  onAssets: (assets: string[]) => void;
}) {
  const id = useWorkspaceId();
  const run = useJob();
  const [search, setSearch] = useState('');
  const { data, error } = useQuery({
    queryKey: ['assets', id, from],
    enabled: from !== '',
    queryFn: () => run(listAssets, { id }, { from }),
  });
  const tree = useMemo(() => branchesOf(data?.files ?? []), [data]);
  const found = useMemo(
    () =>
      search === ''
        ? null
        : (data?.files ?? []).filter((f) => f.path.toLowerCase().includes(search.toLowerCase())),
    [data, search],
  );
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const isOpen = (path: string) => open.has(path);
  return (
    <Sheet aria-label="From" style={{ display: 'flex', flexDirection: 'column', gap: 8, minHeight: 0 }}>
      <OtherRoot label="From" value={from} onChange={onFrom} without={root} purpose="Carry over" />
      {from === '' && <Others without={root} onChoose={onFrom} />}
      {from !== '' && (
        <>
          <Mono style={{ fontSize: 12.5 }}>{from}</Mono>
          <Row>
            <TextField label="Search" value={search} onChange={setSearch} />
          </Row>
        </>
      )}
      {error && <ErrorNotice error={shapeOf(error)} />}
      {from !== '' && !data && !error && <Soft>Looking …</Soft>}
      {data && (
        <TreeLook>
          <Tree
            key={found ? 'found' : 'all'}
            aria-label="What is carried over"
            selectionMode="multiple"
            selectionBehavior="toggle"
            escapeKeyBehavior="none"
            selectedKeys={assets}
            onSelectionChange={(keys) =>
              onAssets(
                outermost(keys === 'all' ? (found ?? data.files).map((f) => f.path) : [...keys].map(String)),
              )
            }
            expandedKeys={open}
            onExpandedChange={(keys: Set<Key>) => setOpen(new Set([...keys].map(String)))}
            renderEmptyState={() => <Soft>{found ? 'Nothing is found.' : 'Nothing lies there.'}</Soft>}
          >
            {found
              ? found.slice(0, linesAtOnce).map((f) => <FileItem key={f.path} file={f} whole />)
              : branchItems(tree, isOpen)}
          </Tree>
          {found && found.length > linesAtOnce && (
            <Soft>and {found.length - linesAtOnce} more: say more of its name</Soft>
          )}
          {data.more > 0 && (
            <Soft>{count(data.more, 'file')} more are not listed; pick a folder around them.</Soft>
          )}
        </TreeLook>
      )}
    </Sheet>
  );
}

/** Without what lies in another of them. */
const outermost = (paths: readonly string[]) =>
  paths.filter((p) => !paths.some((o) => o !== p && isWithin(p, o)));

function branchItems(branch: Branch, isOpen: (path: string) => boolean) {
  return [
    ...branch.folders.map((f) => <FolderItem key={f.path} branch={f} isOpen={isOpen} />),
    ...branch.files.slice(0, linesAtOnce).map((f) => <FileItem key={f.path} file={f} />),
  ];
}

function FolderItem({ branch: b, isOpen }: { branch: Branch; isOpen: (path: string) => boolean }) {
  return (
    <TreeItem id={b.path} textValue={nameOf(b.path)} hasChildItems>
      <TreeItemContent>
        <div className="line">
          <AriaButton slot="chevron" aria-label={`Open or close ${nameOf(b.path)}`}>
            <ChevronRight size={15} />
          </AriaButton>
          <RowTick />
          <Folder size={15} aria-hidden />
          <span className="grow">
            <span className="node folder" title={b.path}>
              {nameOf(b.path)}/
            </span>
          </span>
          <span className="figure">
            {count(b.count, 'file')} · {bytes(b.size)}
          </span>
        </div>
      </TreeItemContent>
      {isOpen(b.path) && branchItems(b, isOpen)}
    </TreeItem>
  );
}

function FileItem({ file: f, whole = false }: { file: { path: string; size: number }; whole?: boolean }) {
  return (
    <TreeItem id={f.path} textValue={whole ? f.path : nameOf(f.path)}>
      <TreeItemContent>
        <div className="line">
          <span style={{ width: 18, flex: 'none' }} />
          <RowTick />
          <File size={15} aria-hidden />
          <span className="grow">
            {whole ? (
              <Path path={f.path} />
            ) : (
              <span className="node" title={f.path}>
                {nameOf(f.path)}
              </span>
            )}
          </span>
          <span className="figure">{bytes(f.size)}</span>
        </div>
      </TreeItemContent>
    </TreeItem>
  );
}
