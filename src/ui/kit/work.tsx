'use client';
// Running work as the page hears of it, and the server's state. One stream for the whole page.

import { QueryClient, QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from 'react';
import type { JobView } from '@/wire/jobs';
import type { OverviewView, PlanRequestInput, StateView } from '@/wire/views';
import { ApiError, get, post } from './api';

interface Work {
  jobs: JobView[];
  /** Waits for a job; resolves with its last view, throws its error. */
  ended: (id: string) => Promise<JobView>;
}

const WorkContext = createContext<Work>({ jobs: [], ended: () => Promise.reject(new Error('no stream')) });

// Work after which what was answered before may be wrong.
const changing = new Set(['scan', 'apply', 'unpack']);

/** Asks anew for everything that is shown; what is being asked for the first time just now may be answered from before, and is asked once more after that. */
function askAnew(client: QueryClient): void {
  for (const query of client.getQueryCache().findAll({ fetchStatus: 'fetching' })) {
    if (query.state.data === undefined)
      void query
        .fetch()
        .catch(() => undefined)
        .then(() => client.invalidateQueries({ queryKey: query.queryKey, exact: true }));
  }
  void client.invalidateQueries();
}

/** Holds the stream and the cache of answers. */
export function WorkProvider({ children }: { children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: { queries: { retry: false, staleTime: 5_000, refetchOnWindowFocus: true } },
      }),
  );
  return (
    <QueryClientProvider client={client}>
      <Stream>{children}</Stream>
    </QueryClientProvider>
  );
}

function Stream({ children }: { children: ReactNode }) {
  const [jobs, setJobs] = useState<JobView[]>([]);
  const client = useQueryClient();
  const known = useRef(new Map<string, JobView>());
  const waiting = useRef(new Map<string, ((job: JobView) => void)[]>());

  useEffect(() => {
    const opened = Date.now();
    const source = new EventSource('/api/events');
    const hear = (job: JobView) => {
      const before = known.current.get(job.id);
      known.current.set(job.id, job);
      if (job.ended === null) return;
      for (const tell of waiting.current.get(job.id) ?? []) tell(job);
      waiting.current.delete(job.id);
      // Work may end before the stream is there, or while it is down for a moment: what ended since the page was opened counts as news.
      // Work that only looks changes no answer; asking anew after it would start it again, without end.
      if (changing.has(job.work) && (before ? before.ended === null : job.ended > opened)) askAnew(client);
    };
    source.onmessage = (event: MessageEvent<string>) => {
      const data = JSON.parse(event.data) as { jobs?: JobView[]; job?: JobView };
      for (const job of data.jobs ?? (data.job ? [data.job] : [])) hear(job);
      setJobs([...known.current.values()]);
    };
    return () => source.close();
  }, [client]);

  const ended = useCallback(
    (id: string) =>
      new Promise<JobView>((resolve, reject) => {
        const settle = (job: JobView) => (job.error ? reject(new ApiError(job.error)) : resolve(job));
        const held = known.current.get(id);
        if (held?.ended) settle(held);
        else waiting.current.set(id, [...(waiting.current.get(id) ?? []), settle]);
      }),
    [],
  );
  const value = useMemo(() => ({ jobs, ended }), [jobs, ended]);
  return <WorkContext.Provider value={value}>{children}</WorkContext.Provider>;
}

export const useWork = () => useContext(WorkContext);

/** Starts a job and waits for its result. */
export function useJob() {
  const { ended } = useWork();
  return useCallback(
    async <T,>(path: string, body?: unknown): Promise<T> => {
      const job = await post<JobView>(path, body);
      return (await ended(job.id)).result as T;
    },
    [ended],
  );
}

/** The open workspace's id, from the address; null when none is open. */
export function useWorkspaceId(): string | null {
  return useSearchParams().get('w');
}

/** The address of a step with the open workspace kept. */
export function useStepHref() {
  const id = useWorkspaceId();
  return useCallback(
    (step: string, more: Record<string, string> = {}) => {
      const params = new URLSearchParams({ ...(id ? { w: id } : {}), ...more });
      return `${step}${params.size ? `?${params}` : ''}`;
    },
    [id],
  );
}

/** Changes values of the address in place; undefined or '' takes one out. */
export function useAddress(): [URLSearchParams, (changes: Record<string, string | undefined>) => void] {
  const params = useSearchParams();
  const pathname = usePathname();
  const change = useCallback(
    (changes: Record<string, string | undefined>) => {
      const next = new URLSearchParams(window.location.search);
      for (const [k, v] of Object.entries(changes))
        if (v) next.set(k, v);
        else next.delete(k);
      // Without asking the server for the page again: what the page shows follows its address by itself.
      window.history.replaceState(null, '', `${pathname}?${next}`);
    },
    [pathname],
  );
  return [new URLSearchParams(params), change];
}

export const useServerState = () =>
  useQuery({ queryKey: ['state'], queryFn: () => get<StateView>('/api/state') });

export function useOverview() {
  const id = useWorkspaceId();
  return useQuery({
    queryKey: ['overview', id],
    enabled: id !== null,
    queryFn: () => get<OverviewView>(`/api/workspaces/${id}`),
  });
}

/** Opens a plan for review; coming back leads to where it was made. */
export function useReview() {
  const router = useRouter();
  const href = useStepHref();
  return useCallback(
    (plan: string, back = `${window.location.pathname}${window.location.search}`) =>
      router.push(href(`/plan/${plan}`, { back })),
    [router, href],
  );
}

/** Makes a plan on a folder that is no workspace, or holds several, and opens it for review. */
export function usePlanOf() {
  const run = useJob();
  const review = useReview();
  return useCallback(
    async (at: string, body: unknown, back?: string) =>
      review((await run<{ plan: string }>(at, body)).plan, back),
    [run, review],
  );
}

/** Makes a plan and opens it for review. */
export function usePlan() {
  const run = useJob();
  const review = useReview();
  const id = useWorkspaceId();
  return useCallback(
    async (request: PlanRequestInput) =>
      review((await run<{ plan: string }>(`/api/workspaces/${id}/plans`, request)).plan),
    [run, review, id],
  );
}
