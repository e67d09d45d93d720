'use client';
// What the references come to, in a sentence, and the steps that mend most of them; what stands there where none is to be shown.

import { Briefcase, Link2 } from '../kit/icons';
import { NoScene } from '../workspaces/NoScene';
import { count, figure } from '@/core/text/figures';
import type { GroupsView } from '@/wire/views';
import { Button, MainButton } from '../kit/buttons';
import { Grow, Row, Soft } from '../kit/layout';
import { Empty } from '../kit/notices';
import { whatHoldsBack } from '../overview/holdsBack';

export function Head({
  groups,
  isNarrow,
  onRelink,
  onMend,
}: {
  groups: GroupsView;
  isNarrow: boolean;
  onRelink: () => void;
  onMend: () => void;
}) {
  const lost = groups.references - groups.ready;
  return (
    <Row $gap={5} style={{ alignItems: 'flex-end' }} $wrap>
      <Grow style={{ flexBasis: isNarrow ? 200 : 380 }}>
        <h1>References</h1>
        <div style={{ fontSize: 15.5, marginTop: 6 }}>
          {groups.references === 0 ? (
            'No scene in this workspace references another file yet.'
          ) : lost === 0 ? (
            <strong>All {figure(groups.references)} would open on another machine.</strong>
          ) : (
            <>
              <strong>{count(lost, 'reference')} would break on another machine.</strong>
              {!isNarrow && <Soft> {whatHoldsBack(groups.byState, groups.odd, groups.gapped)}</Soft>}
            </>
          )}
        </div>
      </Grow>
      {(groups.byState.missing ?? 0) + (groups.byState.case ?? 0) > 0 && (
        <Button onPress={onRelink}>
          <Link2 size={16} /> Relink what is sure…
        </Button>
      )}
      {lost > 0 && (
        <MainButton onPress={onMend}>
          <Briefcase size={16} /> Make them travel…
        </MainButton>
      )}
    </Row>
  );
}

/** Nothing in the table: nothing matches, or there is nothing. */
export function Nothing({ groups, onAll }: { groups: GroupsView; onAll: () => void }) {
  return groups.references > 0 ? (
    <Empty action={<Button onPress={onAll}>Show all again</Button>}>
      No reference matches the search and the chosen states.
    </Empty>
  ) : (
    <NoScene>Every external file of every scene shows here, with its state.</NoScene>
  );
}
