/** The plan of the job as the server sees it: asked anew with every change and with every job that ends. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { client, settled } from '../api/client';
import type { Plan, Progress, Step } from '../api/types';
import type { Work } from './project';
import { running } from './socket';
import { usePick } from './window';

/** What of a job the plan depends on; before anything is heard of one there is none. */
function jobOf(progress: Progress | null): string {
  if (!progress || progress.stage === 'idle') return 'idle';
  return `${progress.kind} ${running(progress) ? 'running' : progress.stage}`;
}

export function usePlan(work: Work) {
  const { project, slug } = work;
  const { progress } = usePick('progress');
  const queries = useQueryClient();
  const queryKey = ['plan', slug, project.version, jobOf(progress)];
  const path = { params: { path: { slug } } };
  const { data: plan, isPlaceholderData: old } = useQuery({
    queryKey,
    placeholderData: keepPreviousData,
    queryFn: () => settled<Plan>(client.GET('/api/projects/{slug}/plan', path)),
  });
  /** Leave a step out for now, or take it in again. */
  const leave = (step: Step, skipped: boolean) =>
    work.act(async () => {
      const body = { key: step.key, skipped };
      queries.setQueryData(queryKey, await settled<Plan>(client.PUT('/api/projects/{slug}/plan', { ...path, body })));
    });
  const next = plan?.steps.find((one) => one.key === plan.next);
  return { plan, next, old, leave };
}
