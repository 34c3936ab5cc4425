/** What is known of the source, and the calls that change it. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import type { Edit, Source } from '../../api/types';
import type { Work } from '../../state/project';

export function useSource({ project, slug, act }: Work) {
  const queries = useQueryClient();
  const path = { params: { path: { slug } } };
  const { data: source } = useQuery({
    queryKey: ['source', slug, project.version],
    queryFn: () => settled<Source>(client.GET('/api/projects/{slug}/source', path)),
    placeholderData: (before) => before,
  });
  const anew = () => queries.invalidateQueries({ queryKey: ['source', slug] });
  /** Ask for edits, and keep them. */
  const take = (ask: () => Promise<Edit[]>, summary: string) =>
    void act(async () => {
      const edits = await ask();
      return settled(
        client.POST('/api/projects/{slug}/edits', { ...path, body: { edits, summary, on: project.revision.id } }),
      );
    });
  return { source, anew, take, path };
}
