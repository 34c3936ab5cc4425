/** The tools of a plot of curves: limits to type, fit and back, picture, table. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { useWindow } from '../../state/window';
import { svgOf, tableOf, type Shown } from './picture';
import { ToolsMenu } from './ToolsMenu';
import { axisTo, back, fit, rangeTo } from '../zoom';

export function PlotTools({ name, shown }: { name: string; shown: () => Shown }) {
  const { axis } = useWindow((state) => state.zoom);
  const zoomed = useWindow((state) => state.zoomed.length);
  const { range } = shown();
  const hertz = { unit: 'Hz', digits: 0, step: 1 / 3, factor: true };
  const level = { digits: 1, step: 1, coarse: 5 };
  const buttons = (
    <>
      <Button variant="outlined" size="small" onClick={fit}>
        Fit
      </Button>
      <Button variant="outlined" size="small" disabled={!zoomed} onClick={back}>
        Back
      </Button>
    </>
  );
  return (
    <ToolsMenu
      name={name}
      title="Limits, picture, table"
      bottom={10}
      width={300}
      svg={() => svgOf(shown())}
      table={(between) => tableOf(shown(), between)}
      buttons={buttons}>
      <Row>
        <NumberField
          {...hertz}
          label="Shown from"
          value={axis[0]}
          min={20}
          max={axis[1] / 1.15}
          onCommit={(value) => axisTo(value, axis[1])}
        />
        <NumberField
          {...hertz}
          label="Shown to"
          value={axis[1]}
          min={axis[0] * 1.15}
          max={20000}
          onCommit={(value) => axisTo(axis[0], value)}
        />
      </Row>
      <Box sx={{ display: 'flex', gap: 1, mb: 1 }}>
        <NumberField
          {...level}
          label="Bottom"
          value={range[0]}
          max={range[1] - 1}
          onCommit={(value) => rangeTo(name, [value, range[1]])}
        />
        <NumberField
          {...level}
          label="Top"
          value={range[1]}
          min={range[0] + 1}
          onCommit={(value) => rangeTo(name, [range[0], value])}
        />
      </Box>
    </ToolsMenu>
  );
}
