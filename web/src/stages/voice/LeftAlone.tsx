/** What the last fit left alone, marked where it is: a dip that no boost fills, and why. */
import { useTheme } from '@mui/material/styles';
import type { FitFigures } from '../../api/types';
import type { Geometry } from '../../plot/parts';
import { toX } from '../../plot/scale';
import { hertz, plain } from '../../ui/format';

export function LeftAlone({ dips, geometry }: { dips: FitFigures['left']; geometry: Geometry }) {
  const { own } = useTheme();
  const { width, bottom } = geometry;
  return (
    <g data-testid="dips-left" role="list" aria-label="Dips that the fit left alone">
      {dips.map((one) => {
        const x = toX(one.hertz, width);
        const says = `${hertz(one.hertz)}: ${plain(one.deep_db)} dB left alone, ${one.why}`;
        return (
          <g key={`${one.hertz} ${one.why}`} role="listitem" aria-label={says}>
            <title>{says}</title>
            <rect x={x - 8} y={bottom - 26} width={16} height={24} fill="transparent" />
            <path d={`M${x} ${bottom - 24}v12m-4 -4l4 4l4 -4`} fill="none" stroke={own.clayText} strokeWidth={1.5} />
          </g>
        );
      })}
    </g>
  );
}
