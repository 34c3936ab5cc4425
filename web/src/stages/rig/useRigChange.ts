/** Change choices of the rig; the server answers with what it made of them. */
import { useCallback } from 'react';
import { client, settled } from '../../api/client';
import type { paths } from '../../api/schema.generated';
import type { Work } from '../../state/project';

type Body = paths['/api/rig']['patch']['requestBody']['content']['application/json'];

export function useRigChange({ onRig }: Work) {
  return useCallback(
    (body: Partial<Body>) => {
      void onRig(() =>
        settled(client.PATCH('/api/rig', { body: { no_reference: false, all_outputs: false, ...body } as Body })),
      );
    },
    [onRig],
  );
}
