/** The phase between two, on the main plot's axis: where it adds is shaded. */
import { useTheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import type { Project } from '../../api/types';
import { Plot } from '../../plot/Plot';
import type { Geometry } from '../../plot/parts';
import { toX } from '../../plot/scale';
import { useLines } from '../common/lines';
import { Under } from '../common/Under';

interface Props {
  project: Project;
  name: string;
  unit: string;
  height: number;
  /** Up to here it means anything. */
  highest?: number;
  children?: (geometry: Geometry) => ReactNode;
}

export function PhasePlot({ project, name, unit, height, highest = 20_000, children }: Props) {
  const { own } = useTheme();
  const lines = useLines(project, 'lower');
  return (
    <Under project={project} height={height}>
      <Plot
        spans={false}
        name={name}
        unit={unit}
        grid={project.grid}
        lines={lines}
        range={[-180, 180]}
        step={90}
        height={height}
        readings={false}>
        {(geometry) => (
          <>
            <rect
              x={toX(20, geometry.width)}
              width={toX(highest, geometry.width) - toX(20, geometry.width)}
              y={geometry.y(60)}
              height={geometry.y(-60) - geometry.y(60)}
              fill={own.good}
              opacity={0.1}
            />
            <text x={toX(highest, geometry.width) - 50} y={geometry.y(60) + 14} fill={own.good}>
              adds
            </text>
            {children?.(geometry)}
          </>
        )}
      </Plot>
    </Under>
  );
}
