/** The passive bench as this window works on it: read once for what it depends on, kept at every change. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import type { Bench, Passive, PassiveFound, PassiveStep } from '../../api/types';
import type { Work } from '../../state/project';

type Kind = 'coil' | 'capacitor' | 'resistor';
/** What a part that is added begins with: henry, farad, ohm. */
const FRESH: Record<Kind, number> = { coil: 1e-3, capacitor: 10e-6, resistor: 4.7 };

export function usePassive({ project, slug }: Work) {
  const cache = useQueryClient();
  const [refused, setRefused] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [searching, setSearching] = useState(false);
  const [found, setFound] = useState<PassiveFound[] | null>(null);
  // Another window's change, a take, another target: whatever it depends on makes a version of the project.
  const queryKey = ['passive', slug, project.version];
  const path = { params: { path: { slug } } };
  const query = useQuery({
    queryKey,
    placeholderData: (before?: Passive) => before,
    queryFn: () => settled<Passive>(client.GET('/api/projects/{slug}/passive', path)),
  });
  const doing = async (act: () => Promise<Passive>) => {
    setBusy(true);
    setRefused(null);
    try {
      cache.setQueryData(queryKey, await act());
      setFound(null);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      setRefused(error.message);
      await query.refetch();
    } finally {
      setBusy(false);
    }
  };
  const put = (bench: Bench) =>
    doing(() => settled<Passive>(client.PUT('/api/projects/{slug}/passive', { ...path, body: bench as never })));
  const begin = (body: object) =>
    doing(() => settled<Passive>(client.POST('/api/projects/{slug}/passive/begin', { ...path, body: body as never })));
  const remove = () => doing(() => settled<Passive>(client.DELETE('/api/projects/{slug}/passive', path)));
  const search = async () => {
    setBusy(true);
    setSearching(true);
    setRefused(null);
    try {
      setFound(await settled<PassiveFound[]>(client.POST('/api/projects/{slug}/passive/search', path)));
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      setRefused(error.message);
    } finally {
      setBusy(false);
      setSearching(false);
    }
  };
  return {
    state: query.data,
    busy,
    searching,
    refused,
    found,
    put,
    begin,
    remove,
    search,
    forgive: () => setRefused(null),
  };
}

const withSteps = (bench: Bench, branch: number, change: (steps: PassiveStep[]) => PassiveStep[]): Bench => ({
  ...bench,
  network: {
    branches: bench.network.branches.map((one, n) => (n === branch ? { ...one, steps: change(one.steps) } : one)),
  },
});

/** The bench with another value of a part. */
export const withValue = (bench: Bench, branch: number, step: number, kind: Kind, value: number): Bench =>
  withSteps(bench, branch, (steps) => steps.map((one, n) => (n === step ? { ...one, [kind]: value } : one)));

/** The bench without a part; with its last part a step goes. What a textbook said is of no use then. */
export const without = (bench: Bench, branch: number, step: number, kind: Kind): Bench => ({
  ...withSteps(bench, branch, (steps) =>
    steps.flatMap((one, n) => {
      if (n !== step) return [one];
      const left = { ...one, [kind]: null };
      return (left.coil ?? left.capacitor ?? left.resistor) ? [left] : [];
    }),
  ),
  textbook: [],
});

/** The bench with a step more, next to the driver. */
export const withStep = (bench: Bench, branch: number, stands: PassiveStep['stands'], kind: Kind): Bench => ({
  ...withSteps(bench, branch, (steps) => [
    ...steps,
    {
      stands,
      coil: null,
      capacitor: null,
      resistor: null,
      coil_ohm: 0,
      capacitor_ohm: 0,
      beside: false,
      [kind]: FRESH[kind],
    },
  ]),
  textbook: [],
});

/** The bench with the leads of a way exchanged. */
export const turned = (bench: Bench, branch: number): Bench => ({
  ...bench,
  network: {
    branches: bench.network.branches.map((one, n) => (n === branch ? { ...one, inverted: !one.inverted } : one)),
  },
});
