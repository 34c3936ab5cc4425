/** Within which limits Fit may work; one line of text while the analyser needs the room. */
import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import { NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { hertz, plain } from '../../ui/format';
import { usePick } from '../../state/window';

/** `most`: bands the processor has; `folded`: shown as a line that opens the fields when pressed. */
export function FitLimits({ most, folded }: { most: number; folded: boolean }) {
  const { limits, set } = usePick('limits', 'set');
  const [opened, setOpened] = useState(false);
  if (folded && !opened) {
    const gains = `+${plain(limits.boost_db, 0)} to −${plain(limits.cut_db, 0)} dB`;
    return (
      <ButtonBase
        onClick={() => setOpened(true)}
        aria-expanded={false}
        data-testid="fit-limits"
        title="Open the limits of the fit"
        sx={{ justifyContent: 'flex-start', fontSize: 12, color: 'text.secondary', height: 24 }}>
        {`${limits.count} bands, ${gains}, Q to ${plain(limits.most_q)}, `}
        {`${hertz(limits.low_hz)} to ${hertz(limits.high_hz)} …`}
      </ButtonBase>
    );
  }
  return (
    <>
      <Row>
        <NumberField
          label="Bands"
          value={limits.count}
          digits={0}
          step={1}
          coarse={2}
          min={0}
          max={most}
          onCommit={(count) => set({ limits: { ...limits, count } })}
        />
        <NumberField
          label="Boost to"
          unit="dB"
          value={limits.boost_db}
          digits={0}
          step={1}
          min={0}
          max={12}
          onCommit={(boost_db) => set({ limits: { ...limits, boost_db } })}
        />
        <NumberField
          label="Cut to"
          unit="dB"
          value={limits.cut_db}
          digits={0}
          step={1}
          min={0}
          max={18}
          onCommit={(cut_db) => set({ limits: { ...limits, cut_db } })}
        />
        <NumberField
          label="Q to"
          value={limits.most_q}
          step={0.5}
          min={0.5}
          max={20}
          onCommit={(most_q) => set({ limits: { ...limits, most_q } })}
        />
      </Row>
      <Row>
        <NumberField
          label="From"
          unit="Hz"
          value={limits.low_hz}
          digits={0}
          factor
          step={1 / 12}
          coarse={1 / 3}
          min={20}
          max={20000}
          onCommit={(low_hz) => set({ limits: { ...limits, low_hz } })}
        />
        <NumberField
          label="To"
          unit="Hz"
          value={limits.high_hz}
          digits={0}
          factor
          step={1 / 12}
          coarse={1 / 3}
          min={20}
          max={20000}
          onCommit={(high_hz) => set({ limits: { ...limits, high_hz } })}
        />
      </Row>
    </>
  );
}
