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
  useSyncExternalStore,
  type ReactNode,
} from 'react';
import { eventMessage, scanSaid, type ErrorShape, type jobView, type JobView } from '@/wire/jobs';
import { z } from 'zod';
import type { PlanRequestInput } from '@/wire/views';
import { makePlan } from '@/wire/routes/plans';
import { jobRoute, planMade, type Route } from '@/wire/routes/route';
import { listJobs, readState } from '@/wire/routes/state';
import { readSettings } from '@/wire/routes/settings';
import { readOverview } from '@/wire/routes/workspaces';
import { ApiError, call, checked, shapeOf, type Given } from './api';
import { keepMade, madeOf, type MadePlan } from './madePlans';
import { listen } from './stream';

interface Work {
  jobs: JobView[];
  /** Waits for a job; resolves with its last view, throws its error. */
  ended: (id: string) => Promise<JobView>;
  /** What keeps this page from hearing of work; null: it hears. */
  trouble: ErrorShape | null;
}

const WorkContext = createContext<Work>({
  jobs: [],
  ended: () => Promise.reject(new Error('no stream')),
  trouble: null,
});

// Work after which what was answered before may be wrong.
const changing = new Set(['scan', 'apply', 'unpack']);
const isNews = ({ work, result }: JobView) =>
  changing.has(work) && !(work === 'scan' && scanSaid.safeParse(result).data?.news === false);

/** Asks anew for everything that is shown; what is being asked for the first time just now may be answered from before, and is asked once more after that. */
function askAnew(client: QueryClient): void {
  for (const query of client.getQueryCache().findAll({ fetchStatus: 'fetching' })) {
    if (query.state.data === undefined)
      void query
        .fetch()
        .then(
          () => true,
          // Work that a restart ended is begun again by who wants it.
          (cause: unknown) => shapeOf(cause).code !== lostWork,
        )
        .then((isWorthIt) =>
          isWorthIt ? client.invalidateQueries({ queryKey: query.queryKey, exact: true }) : undefined,
        );
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

interface Waiting {
  /** When it began to wait, as performance.now() tells time. */
  since: number;
  resolve: (job: JobView) => void;
  reject: (cause: ApiError) => void;
}

// A restart of the server ends its work; who waited for it would wait for ever.
const lostWork = 'lost-work';
const endedByRestart: ErrorShape = {
  code: lostWork,
  message: 'The server of Loyal Satchel was started anew, which ended this work.',
  unchanged: 'What it had begun was put back.',
  next: 'Start it again.',
  details: [],
};

// What fails for the moment, where nothing is wrong with what was asked.
const passing = new Set(['unreachable', 'no-database']);

/** Asks once more what was asked while the server was away. */
function askFailedAnew(client: QueryClient): void {
  void client.refetchQueries({
    type: 'active',
    predicate: ({ state: { error } }) => error !== null && passing.has(shapeOf(error).code),
  });
}

function Stream({ children }: { children: ReactNode }) {
  const [jobs, setJobs] = useState<JobView[]>([]);
  const [trouble, setTrouble] = useState<ErrorShape | null>(null);
  const client = useQueryClient();
  const known = useRef(new Map<string, JobView>());
  const waiting = useRef(new Map<string, Waiting[]>());

  useEffect(() => {
    const opened = Date.now();
    const rejectAll = (ids: Iterable<string>, error: ErrorShape) => {
      for (const id of [...ids]) {
        for (const { reject } of waiting.current.get(id) ?? []) reject(new ApiError(error));
        waiting.current.delete(id);
      }
    };
    const hear = (job: JobView) => {
      const before = known.current.get(job.id);
      known.current.set(job.id, job);
      if (job.ended === null) return;
      for (const { resolve } of waiting.current.get(job.id) ?? []) resolve(job);
      waiting.current.delete(job.id);
      // Work may end before the stream is there, or while it is down for a moment: what ended since the page was opened counts as news.
      // Work that only looks changes no answer; asking anew after it would start it again, without end.
      if (isNews(job) && (before ? before.ended === null : job.ended > opened)) askAnew(client);
    };
    /** The first message of a stream tells every job there is: what is not among them ended with the server that had it. */
    const hearAll = (all: JobView[], opening: number) => {
      const there = new Set(all.map((j) => j.id));
      // What began to wait after the stream was asked for may be newer than this message.
      const isOlder = ([id, who]: [string, Waiting[]]) =>
        !there.has(id) && who.some((w) => w.since < opening);
      rejectAll(
        [...waiting.current].filter(isOlder).map(([id]) => id),
        endedByRestart,
      );
      for (const [id, job] of known.current)
        if (job.ended === null && !there.has(id)) known.current.delete(id);
      all.forEach(hear);
    };
    let opening = performance.now();
    /** Why there is no stream: the server is away for the moment, or was started anew and does not know this page any more. */
    const look = () =>
      call(listJobs, {}).then(
        (all) => all,
        (cause: unknown) => {
          const shape = shapeOf(cause);
          setTrouble(shape);
          if (shape.code === 'no-key')
            rejectAll(waiting.current.keys(), { ...endedByRestart, next: shape.next });
          return null;
        },
      );
    const leave = listen((word) => {
      if (word.is === 'opening') opening = performance.now();
      else if (word.is === 'open') {
        setTrouble(null);
        askFailedAnew(client);
      } else if (word.is === 'error') void look();
      else if (word.is === 'message') {
        const data = eventMessage.parse(JSON.parse(word.text));
        if (data.jobs) hearAll(data.jobs, opening);
        else if (data.job) hear(data.job);
        setJobs([...known.current.values()]);
      }
    });
    // Another window may have the stream, whose first message was before this one was open.
    const from = opening;
    void look().then((all) => {
      if (!all) return;
      hearAll(all, from);
      setJobs([...known.current.values()]);
    });
    return leave;
  }, [client]);

  const ended = useCallback(
    (id: string) =>
      new Promise<JobView>((resolve, reject) => {
        const settle = (job: JobView) => (job.error ? reject(new ApiError(job.error)) : resolve(job));
        const held = known.current.get(id);
        if (held?.ended) settle(held);
        else {
          const mine: Waiting = { since: performance.now(), resolve: settle, reject };
          waiting.current.set(id, [...(waiting.current.get(id) ?? []), mine]);
        }
      }),
    [],
  );
  const value = useMemo(() => ({ jobs, ended, trouble }), [jobs, ended, trouble]);
  return <WorkContext.Provider value={value}>{children}</WorkContext.Provider>;
}

export const useWork = () => useContext(WorkContext);

/** Starts a job and waits for its result. */
export function useJob() {
  const { ended } = useWork();
  return useCallback(
    async <P extends string, I extends z.ZodType, R extends z.ZodType>(
      route: Route<P, I, typeof jobView, R>,
      params: Given<P>,
      input?: z.input<I>,
    ): Promise<z.output<R>> => {
      const job = await call(route, params, input);
      return checked(route.result!, (await ended(job.id)).result);
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

export const useServerState = () => useQuery({ queryKey: ['state'], queryFn: () => call(readState, {}) });

export function useOverview() {
  const id = useWorkspaceId();
  return useQuery({
    queryKey: ['overview', id],
    enabled: id !== null,
    queryFn: () => call(readOverview, { id }),
  });
}

/** The settings of the open workspace; asked for anew after `staleTime` ms. */
export function useSettings({ staleTime = 0 } = {}) {
  const id = useWorkspaceId();
  return useQuery({
    queryKey: ['settings', id],
    enabled: id !== null,
    staleTime,
    queryFn: () => call(readSettings, { id }),
  });
}

/** The ways from a plan that is looked at. */
export interface Ways {
  /** Where it was made; there it leads back. */
  back?: string;
  /** Where to go once it is applied, where that is another place. */
  done?: string;
  /** What was typed there is not done by this plan: it is kept. */
  keep?: boolean;
}

/** Opens a plan for review; coming back leads to where it was made. */
export function useReview() {
  const router = useRouter();
  const href = useStepHref();
  return useCallback(
    (plan: string, { back, done, keep }: Ways = {}) =>
      router.push(
        href(`/plan/${plan}`, {
          back: back ?? `${window.location.pathname}${window.location.search}`,
          ...(done === undefined ? {} : { done }),
          ...(keep ? { keep: 'yes' } : {}),
        }),
      ),
    [router, href],
  );
}

/** Makes a plan on a folder that is no workspace, or holds several, and opens it for review. */
export function usePlanOf() {
  const run = useJob();
  const review = useReview();
  return useCallback(
    async <P extends string, I extends z.ZodType>(
      route: Route<P, I, typeof jobView, typeof planMade>,
      params: Given<P>,
      input: z.input<I>,
      ways?: Ways,
    ) => {
      const { plan } = await run(route, params, input);
      keepMade({ plan, path: route.path, params: { ...params } as MadePlan['params'], input });
      review(plan, ways);
    },
    [run, review],
  );
}

/** Makes a plan anew that was made in this window, and shows it in the place of the old one; null where it is not known how it was made. */
export function useAnew(plan: string): (() => Promise<void>) | null {
  const run = useJob();
  const router = useRouter();
  const known = useSyncExternalStore(
    () => () => undefined,
    () => JSON.stringify(madeOf(plan)),
    () => 'null',
  );
  return useMemo(() => {
    const made = JSON.parse(known) as MadePlan | null;
    if (made === null) return null;
    const { path, params, input } = made;
    return async () => {
      const next = await run(jobRoute(path, '', z.unknown(), planMade), params, input);
      keepMade({ plan: next.plan, path, params, input });
      router.replace(`/plan/${next.plan}${window.location.search}`);
    };
  }, [known, run, router]);
}

/** Makes a plan and opens it for review. */
export function usePlan() {
  const planOf = usePlanOf();
  const id = useWorkspaceId();
  return useCallback(
    (request: PlanRequestInput, ways?: Ways) => planOf(makePlan, { id }, request, ways),
    [planOf, id],
  );
}
