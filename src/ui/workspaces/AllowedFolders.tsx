'use client';
// The folders the application may touch, each with what kind of place it is.

import { allowFolder, disallowFolder } from '@/wire/routes/state';
import { useQueryClient } from '@tanstack/react-query';
import { Gauge, Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { ErrorShape } from '@/wire/jobs';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  ErrorNotice,
  Grow,
  IconButton,
  Notice,
  Row,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { PlaceAdvice } from '../kit/fields';
import { Path } from '../kit/Path';
import { useServerState } from '../kit/work';

export function AllowedFolders() {
  const { data } = useServerState();
  const [shown, setShown] = useState<string | null>(null);
  const [path, setPath] = useState('');
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const client = useQueryClient();
  const [wide, setWide] = useState<string | null>(null);
  const add = async (at: string, sure = false) => {
    setProblem(null);
    setWide(null);
    try {
      await call(allowFolder, {}, { path: at, sure });
      setPath('');
      await client.invalidateQueries();
    } catch (cause) {
      const shape = shapeOf(cause);
      setProblem(shape);
      if (shape.code === 'too-wide') setWide(at);
    }
  };
  const known = new Set(data?.allowed.map((p) => p.path));
  const suggested = (data?.suggestions ?? []).filter((s) => !known.has(s)).slice(0, 4);
  return (
    <Sheet aria-label="Allowed folders">
      <Stack>
        <div>
          <h2>Allowed folders</h2>
          <Soft>
            This application may look into them and change what is there. Nothing outside them is touched.
          </Soft>
        </div>
        {data?.allowed.map((p) => (
          <Stack key={p.path} $gap={2}>
            <Row>
              <Grow>
                <Path path={p.path} />
                {!p.there && <Soft> not connected</Soft>}
              </Grow>
              {p.there && (
                <IconButton
                  aria-label={`What kind of place is ${p.path}`}
                  aria-expanded={shown === p.path}
                  onPress={() => setShown(shown === p.path ? null : p.path)}
                >
                  <Gauge size={15} />
                </IconButton>
              )}
              <IconButton
                aria-label={`No longer allow ${p.path}`}
                onPress={() =>
                  void call(disallowFolder, {}, { path: p.path }).then(() => client.invalidateQueries())
                }
              >
                <X size={15} />
              </IconButton>
            </Row>
            {p.tooWide && (
              <Notice tone="amber" title="More than work lies here">
                {p.tooWide} Allow the folder in which your projects lie instead.
              </Notice>
            )}
            {p.there && <PlaceAdvice path={p.path} quiet={shown !== p.path} />}
          </Stack>
        ))}
        <TextField
          label="Allow a folder"
          mono
          value={path}
          onChange={setPath}
          placeholder={data && `${data.home}/Projects`}
          onKeyDown={(e) => {
            if (e.key === 'Enter') void add(path);
          }}
          description="Its whole path; everything below it is allowed too."
        />
        <Row>
          <Button isDisabled={path.trim() === ''} onPress={() => void add(path)}>
            <Plus size={15} /> Allow this folder
          </Button>
        </Row>
        {suggested.length > 0 && (
          <Stack $gap={1}>
            <Soft>Often used:</Soft>
            {suggested.map((s) => (
              <Row key={s}>
                <Grow>
                  <Path path={s} strong={false} />
                </Grow>
                <Button aria-label={`Allow ${s}`} onPress={() => void add(s)}>
                  Allow
                </Button>
              </Row>
            ))}
          </Stack>
        )}
        {problem && <ErrorNotice error={problem} />}
        {wide !== null && (
          <Row>
            <Grow />
            <Button onPress={() => void add(wide, true)}>Allow {wide} all the same</Button>
          </Row>
        )}
      </Stack>
    </Sheet>
  );
}
