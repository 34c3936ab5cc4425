/** What Seams shows of the whole: both sides, their sum, and the phase between them in the bass. */
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import { Plot } from '../../plot/Plot';
import { levelRange } from '../../plot/scale';
import { hasSides } from '../../state/system';
import { useWindow } from '../../state/window';
import { Aside } from '../common/BelowChoice';
import { useLines } from '../common/lines';
import { PlotHead } from '../common/PlotHead';
import { Stack } from '../common/Stack';
import type { StageProps } from '../props';
import { PhasePlot } from './PhasePlot';

const TWO_SIDES = 'Left, right and all together. Shaded: lost between both sides where the ear takes them for one.';
const ONE_SIDE = 'All together. Good: follows the target where no hole of the place is in the way.';

export function WholePlots({ work }: StageProps) {
  const { project } = work;
  const { own } = useTheme();
  const sided = hasSides(project);
  const lacking = useWindow((state) => state.picture?.facts.lacking);
  const drafted = useWindow((state) => state.draft.length > 0);
  const main = useLines(project, 'main');
  const range = useMemo(() => levelRange(main, 45), [main]);
  const shades = useMemo(
    () => [{ between: ['ideal', 'both'] as [string, string], fill: `${own.clay}99`, from: 20, to: 500 }],
    [own],
  );
  if (lacking)
    return (
      <Box sx={{ display: 'grid', placeItems: 'center' }}>
        <Typography color="text.secondary">{`${lacking}.`}</Typography>
      </Box>
    );
  return (
    <Stack
      lower={sided ? 0.28 : 0}
      head={
        <PlotHead
          title="Whole system"
          says={drafted ? 'as it would be; faint: as it stands' : 'predicted at one spot'}
          aside={<Aside says="predicted" stage="seams" />}
          hint={sided ? TWO_SIDES : ONE_SIDE}
        />
      }>
      {(height, second) => (
        <>
          <Plot
            name="Level of both sides and of the whole"
            unit="dB SPL"
            grid={project.grid}
            lines={main}
            range={range}
            height={height}
            shades={shades}
          />
          {sided && (
            <PhasePlot
              project={project}
              name="Phase between left and right"
              unit="right against left, degrees"
              height={second}
              highest={500}
            />
          )}
        </>
      )}
    </Stack>
  );
}
