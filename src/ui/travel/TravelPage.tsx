'use client';
// Travel: rehearse the arrival, pack a bag, verify it, unpack it.

import { packBag, rehearseAt, unpackBag, verifyBag } from '@/wire/routes/bags';
import { openWorkspace } from '@/wire/routes/workspaces';
import { Briefcase, CheckCircle2, PackageOpen, Route, ShieldCheck } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { RehearsalView } from '@/wire/views';
import type { Problem } from '@/core/problem';
import { call, shapeOf } from '../kit/api';
import {
  Button,
  ErrorNotice,
  Grow,
  MainButton,
  Mono,
  Notice,
  PlainButton,
  Row,
  Select,
  Sheet,
  Soft,
  Stack,
  TextField,
} from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { bytes, count } from '@/core/text/figures';
import { Page } from '../kit/Page';
import { Path } from '../kit/Path';
import { useJob, useOverview, useServerState, useWorkspaceId } from '../kit/work';
import { color, space } from '../theme/theme';

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: ${space(4)};
  align-items: start;
`;
const Failed = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr);
  gap: ${space(3)};
  padding: 5px 0;
  border-bottom: 1px solid ${color.line};
  align-items: baseline;
`;

type Outcome =
  | { kind: 'error'; error: ErrorShape }
  | { kind: 'packed'; bag: string; files: number; bytes: number; leftOut: { path: string; why: string }[] }
  | { kind: 'verified'; bag: string; files: number; bytes: number; algorithms: string[]; problems: Problem[] }
  | { kind: 'unpacked'; root: string; files: number; bytes: number; isWorkspace: boolean };

const leftShown = 20;

function LeftOut({ files }: { files: readonly { path: string; why: string }[] }) {
  return (
    <ul aria-label="Not in the bag" style={{ margin: '6px 0 0', paddingLeft: 18 }}>
      {files.map((l) => (
        <li key={l.path}>
          <Mono>{l.path}</Mono>: {l.why}
        </li>
      ))}
    </ul>
  );
}

/** A bag that was made: all of the workspace, or what it lacks. */
function PackedNotice({ packed }: { packed: Extract<Outcome, { kind: 'packed' }> }) {
  const { files, leftOut } = packed;
  const made = `Packed ${count(files, 'file')} (${bytes(packed.bytes)})`;
  if (leftOut.length === 0)
    return (
      <Notice tone="green" title={`${made}.`}>
        <Mono>{packed.bag}</Mono>
      </Notice>
    );
  return (
    <Notice
      tone="amber"
      title={`${made}; ${leftOut.length} ${leftOut.length === 1 ? 'is' : 'are'} not in it.`}
    >
      <Mono>{packed.bag}</Mono>
      <LeftOut files={leftOut.slice(0, leftShown)} />
      {leftOut.length > leftShown && (
        <details>
          <summary>{leftOut.length - leftShown} more</summary>
          <LeftOut files={leftOut.slice(leftShown)} />
        </details>
      )}
    </Notice>
  );
}

export function TravelPage() {
  const id = useWorkspaceId();
  const { data: state } = useServerState();
  const { data: overview } = useOverview();
  const workspace = overview?.workspace;
  const run = useJob();
  const router = useRouter();
  const [chooser, setChooser] = useState<null | {
    pick: 'folder' | 'bag';
    set: (path: string) => void;
    title: string;
  }>(null);
  const [packFolder, setPackFolder] = useState<string | null>(null);
  const [packName, setPackName] = useState<string | null>(null);
  const [form, setForm] = useState<'zip' | 'folder'>('zip');
  const [bag, setBag] = useState('');
  const [toFolder, setToFolder] = useState<string | null>(null);
  const [toName, setToName] = useState<string | null>(null);
  const [place, setPlace] = useState('windows');
  const [at, setAt] = useState('');
  const [rehearsal, setRehearsal] = useState<RehearsalView | null>(null);
  const [rehearseError, setRehearseError] = useState<ErrorShape | null>(null);
  const [outcome, setOutcome] = useState<Outcome | null>(null);
  const [packed, setPacked] = useState<Outcome | null>(null);
  const [busy, setBusy] = useState<string | null>(null);

  const folder = packFolder ?? (state?.demo ? `${state.demo}/bench` : (state?.allowed[0]?.path ?? ''));
  const name = packName ?? (workspace ? workspace.root.split('/').pop()! : '');
  const arrival = toFolder ?? (state?.demo ? `${state.demo}/field-laptop` : (state?.allowed[0]?.path ?? ''));
  const arrivalName =
    toName ??
    bag
      .split('/')
      .pop()
      ?.replace(/\.zip$/i, '') ??
    '';
  const target = bag !== '' ? bag : (workspace?.root ?? '');

  const attempt = async (what: string, work: () => Promise<Outcome>, tell: (o: Outcome) => void) => {
    setBusy(what);
    try {
      tell(await work());
    } catch (cause) {
      tell({ kind: 'error', error: shapeOf(cause) });
    } finally {
      setBusy(null);
    }
  };
  const pack = () =>
    attempt(
      'pack',
      async () => {
        const result = await run(packBag, {}, { workspace: id!, folder, name, form });
        setBag(result.bag);
        return { kind: 'packed', ...result };
      },
      setPacked,
    );
  const verify = () =>
    attempt(
      'verify',
      async () => ({
        kind: 'verified',
        ...(await run(verifyBag, {}, { bag })),
      }),
      setOutcome,
    );
  const unpack = () =>
    attempt(
      'unpack',
      async () => ({
        kind: 'unpacked',
        ...(await run(unpackBag, {}, { bag, folder: arrival, name: arrivalName })),
      }),
      setOutcome,
    );
  const rehearse = async () => {
    setBusy('rehearse');
    setRehearseError(null);
    try {
      setRehearsal(await run(rehearseAt, {}, { path: target, place, at }));
    } catch (cause) {
      setRehearseError(shapeOf(cause));
    } finally {
      setBusy(null);
    }
  };
  const lost = overview ? overview.references - overview.ready : 0;
  const answer = workspace ? (
    lost > 0 ? (
      <>
        <strong>{count(lost, 'reference')}</strong> of {overview!.references} would not open elsewhere yet.
        Rehearse to see what the other machine would say; pack when it says all is well.
      </>
    ) : (
      <>
        Everything is in place. Rehearse the arrival, pack a bag, and unpack it on the other machine: every
        byte is checked.
      </>
    )
  ) : (
    'A bag that arrived can be verified and unpacked here. To pack one, open a workspace first.'
  );
  return (
    <Page title="Travel" answer={answer}>
      <Columns>
        <Stack $gap={4}>
          <Sheet aria-label="Rehearse">
            <Stack>
              <div>
                <h2>
                  <Row>
                    <Route size={15} aria-hidden /> Rehearse the arrival
                  </Row>
                </h2>
                <Soft>
                  Opens {bag ? 'the bag' : 'the workspace'} on another machine, in simulation, before it is
                  sent.
                </Soft>
              </div>
              <Row $gap={3} style={{ alignItems: 'flex-end' }} $wrap>
                <label>
                  <strong style={{ fontSize: 13.5 }}>On</strong>
                  <br />
                  <Select value={place} onChange={(e) => setPlace(e.target.value)} style={{ marginTop: 4 }}>
                    {state?.machines.map((p) => (
                      <option key={p.id} value={p.id}>
                        {p.name}
                      </option>
                    ))}
                  </Select>
                </label>
                <TextField
                  label="At"
                  mono
                  value={at}
                  onChange={setAt}
                  placeholder={state?.machines.find((p) => p.id === place)?.root}
                />
                <MainButton isDisabled={target === '' || busy !== null} onPress={() => void rehearse()}>
                  Rehearse
                </MainButton>
              </Row>
              {rehearseError && <ErrorNotice error={rehearseError} />}
              {rehearsal && (
                <div data-testid="rehearsal">
                  <Notice
                    tone={rehearsal.failures.length === 0 ? 'green' : 'amber'}
                    title={rehearsal.sentence}
                  >
                    {count(rehearsal.files, 'file')} looked at.
                  </Notice>
                  {rehearsal.failures.slice(0, 100).map((f, i) => (
                    <Failed key={i}>
                      <span>
                        <Path path={f.written ?? f.path} />
                        <br />
                        <Soft style={{ fontSize: 13 }}>{f.written ? f.path : 'the file itself'}</Soft>
                      </span>
                      <span>{f.message}</span>
                    </Failed>
                  ))}
                  {rehearsal.failures.length > 100 && (
                    <Soft>… and {count(rehearsal.failures.length - 100, 'more')}</Soft>
                  )}
                </div>
              )}
            </Stack>
          </Sheet>
        </Stack>
        <Stack $gap={4}>
          {workspace && (
            <Sheet aria-label="Pack">
              <Stack>
                <div>
                  <h2>
                    <Row>
                      <Briefcase size={15} aria-hidden /> Pack a bag
                    </Row>
                  </h2>
                  <Soft>
                    All of {workspace.name}, hidden files too, with checksums:{' '}
                    {overview?.found
                      ? `${bytes(overview.found.bytes)} in ${count(overview.found.files, 'file')}`
                      : '…'}
                    .
                  </Soft>
                </div>
                <Row style={{ alignItems: 'flex-end' }}>
                  <TextField label="Into the folder" mono value={folder} onChange={setPackFolder} />
                  <Button
                    onPress={() =>
                      setChooser({ pick: 'folder', title: 'Where shall the bag lie?', set: setPackFolder })
                    }
                  >
                    Choose…
                  </Button>
                </Row>
                <Row $gap={3} style={{ alignItems: 'flex-end' }}>
                  <TextField label="Name" value={name} onChange={setPackName} />
                  <label>
                    <strong style={{ fontSize: 13.5 }}>As</strong>
                    <br />
                    <Select
                      value={form}
                      onChange={(e) => setForm(e.target.value as 'zip' | 'folder')}
                      style={{ marginTop: 4 }}
                    >
                      <option value="zip">one ZIP file</option>
                      <option value="folder">a folder</option>
                    </Select>
                  </label>
                  <MainButton
                    isDisabled={busy !== null || name === '' || folder === ''}
                    onPress={() => void pack()}
                  >
                    {busy === 'pack' ? 'Packing …' : 'Pack it'}
                  </MainButton>
                </Row>
                {packed?.kind === 'error' && <ErrorNotice error={packed.error} />}
                {packed?.kind === 'packed' && <PackedNotice packed={packed} />}
              </Stack>
            </Sheet>
          )}
          <Sheet aria-label="Verify and unpack">
            <Stack>
              <div>
                <h2>
                  <Row>
                    <PackageOpen size={15} aria-hidden /> A bag that arrived
                  </Row>
                </h2>
                <Soft>
                  Unpacking checks every byte on its way; the folder appears only when all of it is right.
                </Soft>
              </div>
              <Row style={{ alignItems: 'flex-end' }}>
                <TextField
                  label="The bag"
                  mono
                  value={bag}
                  onChange={setBag}
                  placeholder="a .zip or a folder"
                />
                <Button onPress={() => setChooser({ pick: 'bag', title: 'Which bag?', set: setBag })}>
                  Choose…
                </Button>
              </Row>
              <Row $gap={3} style={{ alignItems: 'flex-end' }} $wrap>
                <TextField label="Unpack into the folder" mono value={arrival} onChange={setToFolder} />
                <TextField label="As" value={arrivalName} onChange={setToName} />
              </Row>
              <Row>
                <Grow />
                <Button isDisabled={bag === '' || busy !== null} onPress={() => void verify()}>
                  <ShieldCheck size={15} /> {busy === 'verify' ? 'Verifying …' : 'Verify'}
                </Button>
                <MainButton
                  isDisabled={bag === '' || arrivalName === '' || busy !== null}
                  onPress={() => void unpack()}
                >
                  {busy === 'unpack' ? 'Unpacking …' : 'Unpack'}
                </MainButton>
              </Row>
              {outcome?.kind === 'error' && <ErrorNotice error={outcome.error} />}
              {outcome?.kind === 'verified' &&
                (outcome.problems.length === 0 ? (
                  <Notice
                    tone="green"
                    title={`Valid: every byte of ${count(outcome.files, 'file')} (${bytes(outcome.bytes)}) is as it was packed.`}
                  >
                    Checked by {outcome.algorithms.join(', ')}.
                  </Notice>
                ) : (
                  <Notice tone="brick" title={`${count(outcome.problems.length, 'problem')} in this bag.`}>
                    <ul>
                      {outcome.problems.slice(0, 40).map((p, i) => (
                        <li key={i}>{p.message}</li>
                      ))}
                    </ul>
                  </Notice>
                ))}
              {outcome?.kind === 'unpacked' && (
                <Notice
                  tone="green"
                  title={`Unpacked ${count(outcome.files, 'file')} (${bytes(outcome.bytes)}); every checksum matches.`}
                >
                  <Row>
                    <CheckCircle2 size={15} aria-hidden />
                    <Mono>{outcome.root}</Mono>
                    {outcome.isWorkspace && (
                      <PlainButton
                        onPress={() =>
                          void call(openWorkspace, {}, { path: outcome.root }).then((w) =>
                            router.push(`/overview?w=${w.id}`),
                          )
                        }
                      >
                        Open it
                      </PlainButton>
                    )}
                  </Row>
                </Notice>
              )}
            </Stack>
          </Sheet>
        </Stack>
      </Columns>
      {chooser && (
        <FolderChooser
          title={chooser.title}
          pick={chooser.pick}
          action="Take this"
          onClose={() => setChooser(null)}
          onChoose={([path]) => {
            chooser.set(path!);
            setChooser(null);
          }}
        />
      )}
    </Page>
  );
}
