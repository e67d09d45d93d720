'use client';
// What travels, by hand: folders and files with their sizes, the largest first, one place of the tree at a time.

import { ChevronRight, CornerLeftUp, File, Folder } from '../kit/icons';
import { useState } from 'react';
import type { TravelChoice, TravelLook, Travelling } from '@/core/bags/travelling';
import { folderOf } from '@/core/files/treePath';
import { bytes, count } from '@/core/text/figures';
import { MainButton, PlainButton } from '../kit/buttons';
import { Dialog } from '../kit/dialog';
import { Tick } from '../kit/fields';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { byHand, placesIn } from './choice';
import { FileList } from './FileList';

const shownAtMost = 400;

export function ByHand({
  look,
  choice,
  travelling,
  onChoose,
  onClose,
}: {
  look: TravelLook;
  choice: TravelChoice;
  travelling: Travelling;
  onChoose: (choice: TravelChoice) => void;
  onClose: () => void;
}) {
  const [at, setAt] = useState('');
  const places = placesIn(look, travelling.travels, at);
  return (
    <Dialog title="What travels, by hand" width={720} onClose={onClose}>
      <Row>
        <PlainButton isDisabled={at === ''} aria-label="One folder up" onPress={() => setAt(folderOf(at))}>
          <CornerLeftUp size={15} /> up
        </PlainButton>
        <Mono>{at === '' ? 'the root' : at}</Mono>
        <Grow />
        <Soft>
          {bytes(travelling.bytes)} in {count(travelling.files, 'file')} travel
        </Soft>
      </Row>
      <FileList role="list" aria-label="Folders and files">
        {places.slice(0, shownAtMost).map((p) => (
          <Row key={p.path} role="listitem">
            <Tick
              checked={p.travelling > 0}
              some={p.travelling > 0 && p.travelling < p.files}
              onChange={(isIn) => onChoose(byHand(choice, p.path, isIn))}
            >
              <Row>
                {p.isFolder ? <Folder size={15} aria-hidden /> : <File size={15} aria-hidden />}
                <Mono>{p.name}</Mono>
              </Row>
            </Tick>
            <Grow />
            <span className="number">
              {p.isFolder ? `${count(p.files, 'file')} · ${bytes(p.bytes)}` : bytes(p.bytes)}
            </span>
            {p.isFolder && (
              <PlainButton aria-label={`Into ${p.name}`} onPress={() => setAt(p.path)}>
                <ChevronRight size={16} />
              </PlainButton>
            )}
          </Row>
        ))}
        {places.length > shownAtMost && (
          <div>and {(places.length - shownAtMost).toLocaleString('en')} smaller ones</div>
        )}
      </FileList>
      <Row>
        <Grow />
        <MainButton onPress={onClose}>Done</MainButton>
      </Row>
    </Dialog>
  );
}
