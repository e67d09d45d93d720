'use client';
// The folders the application may touch, each with what kind of place it is.

import { allowFolder, disallowFolder } from '@/wire/routes/state';
import { useQueryClient } from '@tanstack/react-query';
import { FolderSearch, Gauge, Plus, X } from '../kit/icons';
import { useState } from 'react';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { Form, FormText, Submit, useKeptForm } from '../kit/form';
import { AllowChooser } from '../kit/AllowChooser';
import { Button, IconButton } from '../kit/buttons';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice, Notice } from '../kit/notices';
import { PlaceAdvice } from '../kit/places';
import { Path } from '../kit/Path';
import { useServerState } from '../kit/work';
import { FolderRoles } from './FolderRoles';

export function AllowedFolders() {
  const { data } = useServerState();
  const [shown, setShown] = useState<string | null>(null);
  const { attempt, problem, setProblem } = useAttempt();
  const client = useQueryClient();
  const form = useKeptForm('allow', allowFolder.input, { path: '' });
  const [choosing, setChoosing] = useState(false);
  const [wide, setWide] = useState<string | null>(null);
  const add = (at: string, sure = false) =>
    attempt(async () => {
      setWide(null);
      try {
        await call(allowFolder, {}, { path: at, sure });
      } catch (cause) {
        if (shapeOf(cause).code === 'too-wide') setWide(at);
        throw cause;
      }
      form.takeBack();
      await client.invalidateQueries();
    });
  const remove = (at: string) =>
    attempt(async () => {
      await call(disallowFolder, {}, { path: at });
      // What was said of it is over.
      setProblem(null);
      setWide(null);
      await client.invalidateQueries();
    });
  const mayManage = !data?.me || data.me.role === 'manage';
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
              {mayManage && (
                <IconButton aria-label={`No longer allow ${p.path}`} onPress={() => void remove(p.path)}>
                  <X size={15} />
                </IconButton>
              )}
            </Row>
            {p.tooWide && (
              <Notice tone="amber" title="More than work lies here">
                {p.tooWide} Allow the folder in which your projects lie instead.
              </Notice>
            )}
            {data.me?.role === 'manage' && <FolderRoles path={p.path} />}
            {p.there && <PlaceAdvice path={p.path} quiet={shown !== p.path} />}
          </Stack>
        ))}
        {!mayManage && <Soft>Those who manage this server allow folders.</Soft>}
        {mayManage && (
          <Form form={form} label="Allow a folder" onSubmit={(v) => add(v.path)}>
            <FormText
              name="path"
              label="Allow a folder"
              mono
              placeholder={data && `${data.home}/Projects`}
              description="Its whole path; everything below it is allowed too."
            />
            <Row>
              <Button onPress={() => setChoosing(true)}>
                <FolderSearch size={15} /> Choose…
              </Button>
              <Submit unless={form.values.path.trim() === ''}>
                <Plus size={15} /> Allow this folder
              </Submit>
            </Row>
          </Form>
        )}
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
        {choosing && (
          <AllowChooser
            start=""
            onClose={() => setChoosing(false)}
            onChoose={(path) => {
              setChoosing(false);
              form.setValue('path', path);
            }}
          />
        )}
        <ErrorNotice error={problem} />
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
