'use client';
// Who comes in to this server, with which role; links that wait to be used. For those who manage it.

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { KeyRound, UserPlus, UserX, X } from '../kit/icons';
import { useState } from 'react';
import { ago, count, when } from '@/core/text/figures';
import {
  changePerson,
  dropLink,
  invite,
  listMachines,
  listPeople,
  resetPassword,
  type PeopleView,
  type PersonView,
} from '@/wire/routes/people';
import { call, shapeOf } from '../kit/api';
import { useAttempt } from '../kit/attempt';
import { IconButton, PlainButton } from '../kit/buttons';
import { Choose } from '../kit/fields';
import { Form, FormChoice, FormText, Submit, useKeptForm } from '../kit/form';
import { Grow, Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { SmallTable } from '../kit/SmallTable';
import { useServerState } from '../kit/work';
import { ShownOnce } from './ShownOnce';
import { roleName, roleNames } from './words';

/** A link that was just made: it is shown once. */
interface Made {
  address: string;
  about: string;
  isNew: boolean;
}

export function PeoplePage() {
  const me = useServerState().data?.me ?? null;
  const { data, error, dataUpdatedAt } = useQuery({
    queryKey: ['people'],
    enabled: me?.role === 'manage',
    queryFn: () => call(listPeople, {}),
  });
  const [made, setMade] = useState<Made | null>(null);
  const inside = data?.people.filter((p) => !p.gone) ?? [];
  return (
    <Page
      title="People"
      answer={
        data
          ? `${count(inside.length, 'person comes in', 'people come in')} here${data.links.length > 0 ? `, and ${count(data.links.length, 'link waits', 'links wait')} to be used` : ''}. What each of them does says so in the ledger.`
          : me && me.role !== 'manage'
            ? 'Those who manage this server invite people, and give them their roles.'
            : undefined
      }
    >
      <ErrorNotice error={error ? shapeOf(error) : null} />
      {data && me && (
        <>
          <Invite onMade={setMade} />
          <Sheet aria-label="Who comes in">
            <People people={data.people} me={me.id} now={dataUpdatedAt} onMade={setMade} />
          </Sheet>
          <Machines now={dataUpdatedAt} />
          {data.links.length > 0 && <Links links={data.links} now={dataUpdatedAt} />}
        </>
      )}
      {made && <HandOn made={made} onClose={() => setMade(null)} />}
    </Page>
  );
}

function Invite({ onMade }: { onMade: (made: Made) => void }) {
  const form = useKeptForm('invite', invite.input, { about: '', role: 'change' as const });
  const { attempt, problem } = useAttempt();
  const client = useQueryClient();
  const send = (values: { about: string; role: 'look' | 'change' | 'manage' }) =>
    attempt(async () => {
      const { address } = await call(invite, {}, values);
      onMade({ address, about: values.about, isNew: true });
      form.takeBack();
      await client.invalidateQueries({ queryKey: ['people'] });
    });
  return (
    <Sheet aria-label="Invite somebody">
      <Form form={form} label="Invite somebody" onSubmit={send}>
        <Stack>
          <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
            <FormText name="about" label="Whom" placeholder="Aya, props" maxLength={80} />
            <FormChoice name="role" label="Role" options={roleNames} />
            <Submit>
              <UserPlus size={16} /> Make a link
            </Submit>
          </Row>
          <Soft>
            The link is for one person and holds for seven days. Who looks sees everything in the folders that
            are theirs to see; who changes does the work; who manages also invites, and allows folders.
          </Soft>
          <ErrorNotice error={problem} />
        </Stack>
      </Form>
    </Sheet>
  );
}

function People({
  people,
  me,
  now,
  onMade,
}: {
  people: readonly PersonView[];
  me: string;
  now: number;
  onMade: (made: Made) => void;
}) {
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  const change = (person: PersonView, to: { role?: PersonView['role']; gone?: boolean }) =>
    attempt(async () => {
      await call(changePerson, { person: person.id }, to);
      await client.invalidateQueries();
    });
  const reset = (person: PersonView) =>
    attempt(async () => {
      const { address } = await call(resetPassword, { person: person.id }, {});
      onMade({ address, about: person.name, isNew: false });
      await client.invalidateQueries({ queryKey: ['people'] });
    });
  return (
    <Stack $gap={2}>
      <ErrorNotice error={problem} />
      <SmallTable>
        <thead>
          <tr>
            <th>Name</th>
            <th>Signs in with</th>
            <th>Role</th>
            <th>Was here</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {people.map((p) => (
            <tr key={p.id}>
              <td>
                <strong>{p.name}</strong>
                {p.id === me && <Soft> you</Soft>}
                {p.gone && <Soft> does not come in any more</Soft>}
              </td>
              <td>{p.email}</td>
              <td>
                {p.gone ? (
                  roleName(p.role)
                ) : (
                  <Choose
                    hidden
                    label={`Role of ${p.name}`}
                    value={p.role}
                    options={roleNames}
                    onChange={(role) => void change(p, { role })}
                  />
                )}
              </td>
              <td>{p.lastSeen === null ? <Soft>not signed in</Soft> : ago(p.lastSeen, now)}</td>
              <td>
                <Row>
                  {!p.gone && (
                    <PlainButton aria-label={`A new password for ${p.name}`} onPress={() => void reset(p)}>
                      <KeyRound size={15} /> New password…
                    </PlainButton>
                  )}
                  {p.gone ? (
                    <PlainButton onPress={() => void change(p, { gone: false })}>Let in again</PlainButton>
                  ) : (
                    p.id !== me && (
                      <PlainButton
                        aria-label={`${p.name} does not come in any more`}
                        onPress={() => void change(p, { gone: true })}
                      >
                        <UserX size={15} /> Send away
                      </PlainButton>
                    )
                  )}
                </Row>
              </td>
            </tr>
          ))}
        </tbody>
      </SmallTable>
    </Stack>
  );
}

/** Who does the work: each machine with what it reaches. */
function Machines({ now }: { now: number }) {
  const { data, error } = useQuery({
    queryKey: ['machines'],
    refetchInterval: 10_000,
    queryFn: () => call(listMachines, {}),
  });
  const workers = data?.filter((m) => m.kind === 'worker') ?? [];
  return (
    <Sheet aria-label="Machines that do the work">
      <Stack $gap={2}>
        <div>
          <h2>Machines that do the work</h2>
          <Soft>
            The server does work itself; each <Mono>satchel worker</Mono> that is started elsewhere takes a
            part of it, of the folders that it reaches.
          </Soft>
        </div>
        <ErrorNotice error={error ? shapeOf(error) : null} />
        {data && workers.length === 0 && <Soft>None says that it is there. Work waits until one does.</Soft>}
        {workers.map((m) => (
          <Row key={m.id} $wrap>
            <strong>{m.name}</strong>
            <Soft>was heard of {ago(m.seen, now)}</Soft>
            {m.reaches.length === 0 ? (
              <Soft>reaches no allowed folder just now</Soft>
            ) : (
              m.reaches.map((path) => <Path key={path} path={path} />)
            )}
          </Row>
        ))}
      </Stack>
    </Sheet>
  );
}

function Links({ links, now }: { links: PeopleView['links']; now: number }) {
  const client = useQueryClient();
  const { attempt, problem } = useAttempt();
  const drop = (link: string) =>
    attempt(async () => {
      await call(dropLink, { link }, {});
      await client.invalidateQueries({ queryKey: ['people'] });
    });
  return (
    <Sheet aria-label="Links that wait">
      <Stack $gap={2}>
        <h2>Links that wait</h2>
        <ErrorNotice error={problem} />
        {links.map((l) => (
          <Row key={l.id}>
            <Grow>
              <strong>{l.about}</strong>{' '}
              <Soft>
                {l.for === 'password' ? 'for a new password' : roleName(l.role)} · made by {l.madeBy} · holds
                until {when(l.expires, now)}
              </Soft>
            </Grow>
            <IconButton aria-label={`Take back the link for ${l.about}`} onPress={() => void drop(l.id)}>
              <X size={15} />
            </IconButton>
          </Row>
        ))}
      </Stack>
    </Sheet>
  );
}

function HandOn({ made, onClose }: { made: Made; onClose: () => void }) {
  return (
    <ShownOnce title={`A link for ${made.about}`} text={made.address} onClose={onClose}>
      Hand it on to them alone: whoever opens it first {made.isNew ? 'comes in by it' : 'sets the password'}.
    </ShownOnce>
  );
}
