// The question to the table of references: it stands in the address, so that a view can be kept and gone back to.

import { groupings, sortings } from '@/core/references/sheet';
import { useTyped } from '../kit/typed';
import { useAddress } from '../kit/work';
import type { TableQuery } from './lines';

export function useTableQuery(): { filter: TableQuery; search: (q: string) => void } {
  const [address] = useAddress();
  const { typed, search } = useTyped();
  return {
    search,
    filter: {
      q: typed,
      state: address.get('state') ?? '',
      group: groupings.find((g) => g === address.get('group')) ?? 'scene',
      sort: sortings.find((s) => s === address.get('sort')) ?? 'need',
      down: address.get('down') === 'yes' ? 'yes' : 'no',
    },
  };
}
