'use client';
// Into which scene, under which node, at which place; and what to do where a name is taken, for all and for each.

import { extensionOf, nameOf } from '@/core/files/treePath';
import type { NodeClashWay } from '@/core/nodes/clashes';
import { kinFormats } from '@/core/nodes/kin';
import { count } from '@/core/text/figures';
import type { CarryNodesLook } from '@/wire/nodes';
import type { OverviewView } from '@/wire/views';
import { Chip } from '../kit/buttons';
import { Choose, Radios } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useNodes, useScenes } from './FromScene';
import { Taken } from './Into';

export interface NodeWays {
  /** Null: what is equal is used, all else gets a new name. */
  all: NodeClashWay | null;
  own: Record<string, NodeClashWay>;
}

const words: Readonly<Record<NodeClashWay, string>> = {
  rename: 'a new name',
  target: 'use what is there',
  replace: 'replace what is there',
  skip: 'leave it out',
};
const most = 100;

interface Props {
  overview: OverviewView;
  from: { root: string; scene: string };
  into: string;
  onInto: (scene: string) => void;
  under: string;
  onUnder: (id: string) => void;
  place: 'world' | 'parent';
  onPlace: (place: 'world' | 'parent') => void;
  pictures: 'as-there' | 'files' | 'inside';
  onPictures: (pictures: 'as-there' | 'files' | 'inside') => void;
  clashes: CarryNodesLook['clashes'];
  ways: NodeWays;
  onWays: (ways: NodeWays) => void;
}

export function IntoScene(props: Props) {
  const { overview, from, into, onInto, under, onUnder, place, onPlace } = props;
  const { root, name } = overview.workspace;
  const { scenes } = useScenes(root);
  const { nodes } = useNodes(root, into);
  const kin = kinFormats.find((k) => k.includes(extensionOf(from.scene))) ?? kinFormats.flat();
  const fitting = (scenes ?? []).filter(
    (s) => kin.includes(extensionOf(s)) && !(from.root === root && s === from.scene),
  );
  const hasNodes = !['.obj', '.mtlx'].includes(extensionOf(into));
  const isGltf = ['.gltf', '.glb'].includes(extensionOf(into));
  return (
    <Sheet aria-label="Into" style={{ minHeight: 0, overflow: 'auto' }}>
      <Stack>
        <h2>Into {name}</h2>
        <Choose
          label="Scene it goes into"
          value={into}
          onChange={onInto}
          options={[
            ...(into === '' || !fitting.includes(into)
              ? [[into, into === '' ? 'choose a scene' : into] as const]
              : []),
            ...fitting.map((s) => [s, s] as const),
          ]}
        />
        {scenes && fitting.length === 0 && (
          <Soft>No scene of this format is here: between formats nothing is carried.</Soft>
        )}
        {into !== '' && nodes && hasNodes && (
          <>
            <Choose
              label="Under"
              value={under}
              onChange={onUnder}
              options={[
                ['', 'the top of the scene'] as const,
                ...nodes.slice(0, 2000).map((n) => [n.id, n.path] as const),
              ]}
            />
            <Radios
              label="Where it stands"
              value={place}
              onChange={(v) => onPlace(v as 'world' | 'parent')}
              options={[
                { id: 'world', name: 'At its place in the world', content: 'At its place in the world' },
                {
                  id: 'parent',
                  name: 'As it stood below its parent',
                  content: 'As it stood below its parent',
                },
              ]}
            />
          </>
        )}
        {into !== '' && isGltf && (
          <Choose
            label="Pictures"
            value={props.pictures}
            onChange={props.onPictures}
            options={[
              ['as-there', 'as the scene holds its own'],
              ['files', 'as files beside it'],
              ['inside', 'inside it'],
            ]}
          />
        )}
        {into !== '' && <Clashes {...props} />}
      </Stack>
    </Sheet>
  );
}

function Clashes({ clashes, ways, onWays, into }: Props) {
  if (clashes.length === 0) return <Soft>No name is taken in {nameOf(into)}.</Soft>;
  return (
    <>
      <h2>{clashes.length === 1 ? 'A name is taken' : `${count(clashes.length, 'name')} are taken`}</h2>
      {clashes.length > 1 && (
        <Row $wrap role="group" aria-label="For all of them">
          <Soft>All:</Soft>
          {(['rename', 'target', 'replace', 'skip'] as const).map((id) => (
            <Chip
              key={id}
              isSelected={ways.all === id && Object.keys(ways.own).length === 0}
              onChange={(on) => onWays({ all: on ? id : null, own: {} })}
            >
              {id === 'target' ? 'use the equal ones' : words[id]}
            </Chip>
          ))}
        </Row>
      )}
      {clashes.slice(0, most).map((c) => (
        <Taken key={c.key} role="group" aria-label={`${c.kind} ${c.name} is there`}>
          <Mono style={{ fontWeight: 700 }}>{c.name}</Mono>{' '}
          {c.isEqual ? `is there, the same ${c.kind}.` : `is another ${c.kind} there.`}
          <Row $wrap style={{ marginTop: 6 }}>
            {c.ways.map((id) => (
              <Chip
                key={id}
                isSelected={c.way === id}
                onChange={() => onWays({ ...ways, own: { ...ways.own, [c.key]: id } })}
              >
                {id === 'rename' ? `as ${c.renamed}` : words[id]}
              </Chip>
            ))}
          </Row>
        </Taken>
      ))}
      {clashes.length > most && <Soft>and {clashes.length - most} more, which go as all do</Soft>}
    </>
  );
}
