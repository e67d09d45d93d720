'use client';
// The drawer for the thing selected: at the right, as wide as it was left, closed by its button or Escape.

import { Copy, X } from './icons';
import { Fragment, useEffect, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { color, font, space } from '../theme/theme';
import { IconButton, PlainButton } from './buttons';
import { Grow, Mono, Row, Soft, Stack } from './layout';

const Frame = styled.aside`
  border-left: 1px solid ${color.line};
  background: ${color.sheet};
  overflow: auto;
  padding: ${space(5)} ${space(5)};
  position: relative;
  flex: none;
  height: 100%;
  h2 {
    margin-bottom: 2px;
  }
`;
const Handle = styled.div`
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: ew-resize;
  touch-action: none;
  &:hover,
  &:focus-visible {
    background: ${color.line};
  }
`;
// As high before the picture has arrived as afterwards: a button below must not move from under the pointer.
const pictureHeight = '210px';
const Picture = styled.img`
  width: 100%;
  height: ${pictureHeight};
  object-fit: contain;
  border-radius: 8px;
  border: 1px solid ${color.line};
  background: ${color.raised};
  image-rendering: auto;
`;

const NoPicture = styled(Soft)`
  display: flex;
  align-items: center;
  min-height: ${pictureHeight};
  overflow-wrap: anywhere;
`;

const Title = styled.h2`
  && {
    font: 600 14.5px/1.4 ${font.text};
    color: ${color.ink};
    overflow-wrap: anywhere;
  }
`;

const widthKey = 'satchel-drawer';

/** The file as a picture, or in its place that it is none. */
export function Preview({ name, src }: { name: string; src: string }) {
  const [broken, setBroken] = useState(false);
  if (broken) return <NoPicture>{name} can’t be shown: it is damaged, or not a picture.</NoPicture>;
  return <Picture alt={`Picture of ${name}`} src={src} onError={() => setBroken(true)} />;
}

/** A whole path, broken after its slashes, with a button that copies it. */
export function FullPath({ path }: { path: string }) {
  return (
    <Row>
      <Grow>
        <Mono>
          {path.split(/(?<=[\\/])/).map((part, i) => (
            <Fragment key={i}>
              {part}
              <wbr />
            </Fragment>
          ))}
        </Mono>
      </Grow>
      <PlainButton aria-label="Copy the full path" onPress={() => void navigator.clipboard.writeText(path)}>
        <Copy size={15} />
      </PlainButton>
    </Row>
  );
}

export function Drawer({
  title,
  label,
  onClose,
  children,
}: {
  title: string;
  label: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const [width, setWidth] = useState(330);
  useEffect(() => {
    const kept = Number(localStorage.getItem(widthKey));
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the kept width is known only in the browser
    if (kept) setWidth(kept);
  }, []);
  const resize = (to: number) => {
    const next = Math.max(280, Math.min(640, to));
    setWidth(next);
    localStorage.setItem(widthKey, String(next));
  };
  return (
    <Frame
      style={{ width }}
      aria-label={label}
      onKeyDown={(e) => {
        if (e.key === 'Escape') onClose();
      }}
    >
      <Handle
        role="separator"
        aria-orientation="vertical"
        aria-label="Width of this drawer"
        aria-valuenow={width}
        aria-valuemin={280}
        aria-valuemax={640}
        tabIndex={0}
        onKeyDown={(e) => {
          if (e.key === 'ArrowLeft') resize(width + 20);
          else if (e.key === 'ArrowRight') resize(width - 20);
        }}
        onPointerDown={(e) => {
          const [from, start] = [e.clientX, width];
          const drag = (m: PointerEvent) => resize(start + from - m.clientX);
          window.addEventListener('pointermove', drag);
          window.addEventListener('pointerup', () => window.removeEventListener('pointermove', drag), {
            once: true,
          });
        }}
      />
      <Stack>
        <Row>
          <Grow>
            <Title>{title}</Title>
          </Grow>
          <IconButton aria-label="Close" onPress={onClose}>
            <X size={17} />
          </IconButton>
        </Row>
        {children}
      </Stack>
    </Frame>
  );
}
