/**
 * What stands under the main plot: the analyser's own while it runs, else a closer look, else what the stage itself
 * shows.
 */
import type { ReactNode } from 'react';
import type { Project } from '../../api/types';
import { useWindow } from '../../state/window';
import { Closer } from './Closer';
import { LiveBelow } from './LiveBelow';

export function Under({ project, height, children }: { project: Project; height: number; children: ReactNode }) {
  const below = useWindow((state) => state.picture?.view.below ?? '');
  return (
    <LiveBelow project={project} height={height}>
      {below ? <Closer project={project} height={height} below={below} /> : children}
    </LiveBelow>
  );
}
