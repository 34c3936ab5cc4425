/** Drivers: the round through all of them, the takes of one, checks by ear and pulse, and files. */
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useEffect, useRef } from 'react';
import { KeyLine, PanelTitle } from '../../ui/Panel';
import { running } from '../../state/project';
import { usePick } from '../../state/window';
import type { StageProps } from '../props';
import { Bringing } from './Bringing';
import { ChannelCheck } from './ChannelCheck';
import { ImpedancePanel } from './ImpedancePanel';
import { PassivePanel } from './PassivePanel';
import { References } from './References';
import { RoundPanel } from './RoundPanel';
import { Sounds } from './Sounds';
import { TakesOf } from './TakesOf';

const TABS = [
  ['record', 'Record'],
  ['takes', 'Takes'],
  ['impedance', 'Impedance'],
  ['passive', 'Passive'],
  ['check', 'Check'],
  ['files', 'Files'],
] as const;

export function DriversPanel({ work, selection }: StageProps) {
  const { project } = work;
  const { progress, tab, set } = usePick('progress', 'tab', 'set');
  const drivers = project.layout.drivers;
  const chosen = drivers.find((one) => one.id === selection) ?? drivers[0];
  const done = drivers.filter((one) => project.drivers[one.id]).length;

  // When a take that was seen running is kept and nothing speaks against it, the next one in the round is chosen.
  const before = useRef(progress);
  const { turns } = project.round;
  useEffect(() => {
    const ran = running(before.current);
    before.current = progress;
    if (!ran || progress?.stage !== 'kept' || progress.purpose !== 'driver' || progress.result?.doubt) return;
    const at = turns.findIndex((one) => one.channel === progress.channels[0]);
    const next =
      turns.slice(at + 1).find((one) => one.state === 'waiting') ??
      turns.slice(at + 1).find((one) => one.state !== 'skipped');
    if (next) set({ selection: next.channel });
  }, [progress, turns, set]);

  return (
    <>
      <PanelTitle title="Drivers" aside={`${done} of ${drivers.length} recorded`} />
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={tab}
        aria-label="What to do"
        onChange={(_e, value) => value && set({ tab: value })}>
        {TABS.map(([id, name]) => (
          <ToggleButton key={id} value={id} data-testid={`tab-${id}`} sx={{ py: 0.2, px: 0.25, fontSize: 12 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {tab === 'record' && <RoundPanel work={work} chosen={chosen} />}
      {tab === 'takes' && <TakesOf work={work} driver={chosen} />}
      {tab === 'impedance' && <ImpedancePanel work={work} driver={chosen} />}
      {tab === 'passive' && <PassivePanel work={work} />}
      {tab === 'check' && (
        <>
          <ChannelCheck work={work} driver={chosen} />
          <Sounds work={work} selection={chosen.id} />
        </>
      )}
      {tab === 'files' && (
        <>
          <Bringing work={work} driver={chosen} />
          <References work={work} driver={chosen} />
        </>
      )}
      <KeyLine>Space record and stop · N next · R redo · ? all keys</KeyLine>
    </>
  );
}
