'use client';
// Keys by which programs come in to this server.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { KeyRound, X } from '../kit/icons';
import { useState } from 'react';
import { ago, span } from '@/core/text/figures';
import { dropKey, listKeys, makeKey } from '@/wire/routes/pipelines';
import type { Role } from '@/wire/routes/roles';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { IconButton } from '../kit/buttons';
import { asking, Form, FormChoice, FormText, Submit, useKeptForm } from '../kit/form';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { SmallTable } from '../kit/SmallTable';
import { ShownOnce } from './ShownOnce';
import { roleName, roleNames } from './words';

const lengths = [
  ['30', '30 days'],
  ['90', '90 days'],
  ['365', 'a year'],
] as const;
interface Typed {
  about: string;
  role: Role;
  days: (typeof lengths)[number][0];
}

const initial: Typed = { about: '', role: 'change', days: '90' };

export function Keys() {
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  const [made, setMade] = useState<{ about: string; key: string } | null>(null);
  const {
    data,
    error,
    dataUpdatedAt: now,
  } = useQuery({
    queryKey: ['keys'],
    queryFn: () => call(listKeys, {}),
  });
  const form = useKeptForm(
    'key',
    asking(makeKey.input, (v: Typed) => ({ ...v, days: Number(v.days) })),
    initial,
  );
  const again = () => client.invalidateQueries({ queryKey: ['keys'] });
  const send = (values: Typed) =>
    attempt(async () => {
      const { key } = await call(makeKey, {}, { ...values, days: Number(values.days) });
      setMade({ about: values.about, key });
      form.takeBack();
      await again();
    });
  const drop = (key: string) =>
    attempt(async () => {
      await call(dropKey, { key }, {});
      await again();
    });
  return (
    <Sheet aria-label="Keys">
      <Stack>
        <div>
          <h2>Keys</h2>
          <Soft>
            A program comes in by a key: <Mono>Authorization: Bearer …</Mono>, or{' '}
            <Mono>satchel --server</Mono> with it in <Mono>SATCHEL_API_KEY</Mono>. What it does is told under
            the key’s name. It holds no more once who made it is sent away.
          </Soft>
        </div>
        <Form form={form} label="Make a key" onSubmit={send}>
          <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
            <FormText name="about" label="For what" placeholder="the render farm" maxLength={80} />
            <FormChoice name="role" label="Role" options={roleNames} />
            <FormChoice name="days" label="Holds for" options={lengths} />
            <Submit>
              <KeyRound size={16} /> Make a key
            </Submit>
          </Row>
        </Form>
        <ErrorNotice error={problem ?? (error ? shapeOf(error) : null)} />
        {data && data.length > 0 && (
          <SmallTable>
            <thead>
              <tr>
                <th>For</th>
                <th>Role</th>
                <th>Made by</th>
                <th>Holds for</th>
                <th>Last used</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {data.map((k) => (
                <tr key={k.id}>
                  <td>
                    <strong>{k.about}</strong>
                  </td>
                  <td>{roleName(k.role)}</td>
                  <td>
                    {k.madeBy} <Soft>{ago(k.made, now)}</Soft>
                  </td>
                  <td>{span(k.expires - now)}</td>
                  <td>{k.used === null ? <Soft>never</Soft> : ago(k.used, Math.max(now, k.used))}</td>
                  <td>
                    <IconButton
                      aria-label={`The key for ${k.about} holds no more`}
                      onPress={() => void drop(k.id)}
                    >
                      <X size={15} />
                    </IconButton>
                  </td>
                </tr>
              ))}
            </tbody>
          </SmallTable>
        )}
      </Stack>
      {made && (
        <ShownOnce title={`A key for ${made.about}`} text={made.key} onClose={() => setMade(null)}>
          Whoever has it may do what its role may. Keep it where passwords are kept, not in a script.
        </ShownOnce>
      )}
    </Sheet>
  );
}
