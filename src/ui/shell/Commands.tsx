'use client';
// Ctrl/Cmd+K: every step and every workspace by name. `/` goes to the search field of the page, `?` to the list of shortcuts.

import { useEffect, useState } from 'react';
import { Autocomplete, Dialog, Input, Menu, MenuItem, SearchField, useFilter } from 'react-aria-components';
import styled from 'styled-components';
import { Card, Veil } from '../kit/dialog';
import { useGo } from '../kit/leaving';
import { useServerState, useStepHref, useWorkspaceId } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';

const List = styled.div`
  input {
    width: 100%;
    border: none;
    border-bottom: 1px solid ${color.line};
    background: transparent;
    color: ${color.ink};
    font: 400 16px ${font.text};
    padding: ${space(4)};
    outline: none;
  }
  [role='menu'] {
    max-height: 50vh;
    overflow: auto;
    padding: ${space(2)};
  }
  [role='menuitem'] {
    padding: ${space(2)} ${space(3)};
    border-radius: ${radius.small};
    cursor: pointer;
  }
  [role='menuitem'][data-focused] {
    background: ${color.greenTint};
    outline: none;
  }
`;

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

export function Commands() {
  const [open, setOpen] = useState(false);
  const to = useGo();
  const href = useStepHref();
  const id = useWorkspaceId();
  const { data } = useServerState();
  const { contains } = useFilter({ sensitivity: 'base' });

  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOpen(true);
      } else if (!isTyping(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) {
        if (event.key === '/') {
          const search = document.querySelector<HTMLInputElement>('[data-search]');
          if (search) {
            event.preventDefault();
            search.focus();
          }
        } else if (event.key === '?') to(href('/help'));
      }
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [to, href]);

  const go = [
    { id: href('/overview'), name: 'Go to Overview', needs: true },
    { id: href('/files'), name: 'Go to Files: bring something in', needs: true },
    { id: href('/references'), name: 'Go to References', needs: true },
    { id: href('/versions'), name: 'Go to Versions: save the next one', needs: true },
    { id: href('/collect'), name: 'Go to Collect: what scenes need, into a new folder', needs: true },
    {
      id: href('/carry'),
      name: 'Go to Carry over: files of another workspace, with what they need',
      needs: true,
    },
    { id: href('/travel'), name: 'Go to Travel: pack, verify, unpack, rehearse', needs: false },
    { id: '/', name: 'Go to Workspaces: create, open, allowed folders', needs: false },
    { id: href('/map'), name: 'Go to Map: what leads to what', needs: true },
    { id: href('/ledger'), name: 'Go to Ledger: what was done, and its undo', needs: true },
    { id: href('/files', { view: 'room' }), name: 'Room: what takes how much', needs: true },
    { id: href('/files', { view: 'twice' }), name: 'Files that are there twice', needs: true },
    { id: href('/files', { view: 'unused' }), name: 'Files used by nothing', needs: true },
    { id: href('/files', { view: 'intake' }), name: 'Go to Intake: packs that wait', needs: true },
    { id: href('/files', { view: 'loose' }), name: 'File what lies about', needs: true },
    { id: href('/settings', { tab: 'homes' }), name: 'Change homes', needs: true },
    { id: href('/settings', { tab: 'units' }), name: 'Units and grid', needs: true },
    { id: '/?do=adopt', name: 'Adopt a folder', needs: false },
    { id: '/?do=many', name: 'Create several workspaces', needs: false },
    { id: '/?do=find', name: 'Look for workspaces, repair nested ones', needs: false },
    { id: href('/layouts'), name: 'Go to Layouts', needs: false },
    { id: href('/settings'), name: 'Go to Settings', needs: false },
    { id: href('/help'), name: 'Go to Help', needs: false },
  ].filter((c) => !c.needs || id !== null);
  // The open workspace is under Overview already; two items of one key would empty the list.
  const all = [
    ...go,
    ...(data?.workspaces ?? [])
      .filter((w) => w.id !== id)
      .map((w) => ({ id: `/overview?w=${w.id}`, name: `Open ${w.name}`, needs: false })),
  ];
  return (
    <Veil isOpen={open} onOpenChange={setOpen} isDismissable>
      <Card style={{ maxWidth: 560 }}>
        <Dialog aria-label="Commands">
          <List>
            <Autocomplete filter={contains}>
              <SearchField aria-label="What do you want to do?" autoFocus>
                <Input placeholder="What do you want to do?" />
              </SearchField>
              <Menu
                aria-label="Commands"
                items={all}
                onAction={(key) => {
                  setOpen(false);
                  to(String(key));
                }}
              >
                {(c) => (
                  <MenuItem id={c.id} textValue={c.name}>
                    {c.name}
                  </MenuItem>
                )}
              </Menu>
            </Autocomplete>
          </List>
        </Dialog>
      </Card>
    </Veil>
  );
}
