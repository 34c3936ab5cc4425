/** Source: what reaches the processor, how it sums, who hears it. */
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { usePick } from '../../state/window';
import { KeyLine, PanelTitle } from '../../ui/Panel';
import type { StageProps } from '../props';
import { Feeds } from './Feeds';
import { Loud } from './Loud';
import { Routes } from './Routes';
import { Second } from './Second';
import { Sums } from './Sums';
import { useSource } from './useSource';

const PARTS = [
  ['feeds', 'Feeds'],
  ['level', 'Level'],
  ['sum', 'Sum'],
  ['route', 'Route'],
  ['second', 'Second'],
] as const;

const TRIES = 'Space tries the change-over';
const RECORDS = 'Space records the wires';

export function SourcePanel({ work }: StageProps) {
  const { sourcePart, set } = usePick('sourcePart', 'set');
  const at = useSource(work);
  return (
    <>
      <PanelTitle title="Source" aside={work.project.stages.source} />
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={sourcePart}
        aria-label="What to look at"
        onChange={(_e, value) => value && set({ sourcePart: value })}>
        {PARTS.map(([id, name]) => (
          <ToggleButton key={id} value={id} data-testid={`source-${id}`} sx={{ py: 0.2, px: 0.5, fontSize: 12.5 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {at.source && sourcePart === 'feeds' && <Feeds work={work} at={at} source={at.source} />}
      {at.source && sourcePart === 'level' && <Loud work={work} at={at} source={at.source} />}
      {at.source && sourcePart === 'sum' && <Sums source={at.source} />}
      {at.source && sourcePart === 'route' && <Routes work={work} at={at} source={at.source} />}
      {at.source && sourcePart === 'second' && <Second work={work} at={at} source={at.source} />}
      <KeyLine>{`${sourcePart === 'second' ? TRIES : RECORDS} · ? all keys`}</KeyLine>
    </>
  );
}
