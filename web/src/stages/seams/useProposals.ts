/** What is proposed for the whole: asked for by a press, kept as long as it is about what stands. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import type { Allowed, Proposals, Scope } from '../../api/types';
import type { Work } from '../../state/project';

export function useProposals(work: Work, scope: Scope, allowed: Allowed) {
  const { project, slug } = work;
  const cache = useQueryClient();
  const drivers = project.takes.filter((one) => one.purpose === 'driver' && !one.discarded).map((one) => one.id);
  const queryKey = ['proposals', slug, project.revision.id, drivers, scope, allowed];
  const key = JSON.stringify(queryKey);
  const [wanted, setWanted] = useState('');
  const query = useQuery({
    queryKey,
    enabled: wanted === key,
    retry: false,
    staleTime: 0,
    gcTime: 0,
    queryFn: ({ signal }) =>
      settled<Proposals>(
        client.POST('/api/projects/{slug}/proposals', { params: { path: { slug } }, body: { scope, allowed }, signal }),
      ),
  });
  const ask = () => {
    if (wanted === key) void query.refetch();
    else setWanted(key);
  };
  const stop = () => {
    setWanted('');
    void cache.cancelQueries({ queryKey });
  };
  const refused = query.error instanceof Refusal ? query.error.message : null;
  return { found: query.data, busy: query.isFetching, refused, ask, stop };
}
