/** Within which limits Fit may work; one line of text while the analyser needs the room. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import type { Limits } from '../../api/types';
import { NumberField } from '../../ui/Field';
import { Row } from '../../ui/Panel';
import { hertz, plain } from '../../ui/format';
import { usePick } from '../../state/window';
import { FitMore } from './FitMore';

interface Props {
  /** What the processor can do. */
  can: Limits;
  /** How many bands a fit sets where nobody says. */
  fitBands: number;
  /** Shown as a line that opens the fields when pressed. */
  folded: boolean;
  /** The places of the microphone at which all that is fitted was recorded. */
  places: string[];
}

export function FitLimits({ can, fitBands, folded, places }: Props) {
  const { limits, fitPlaces, set } = usePick('limits', 'fitPlaces', 'set');
  const [more, setMore] = useState(false);
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
        {`${limits.count ?? fitBands} bands, ${gains}, Q to ${plain(limits.most_q)}, `}
        {`${hertz(limits.low_hz)} to ${hertz(limits.high_hz)} …`}
      </ButtonBase>
    );
  }
  const put = (values: Partial<typeof limits>) => set({ limits: { ...limits, ...values } });
  const band = { unit: 'Hz', digits: 0, factor: true, step: 1 / 12, coarse: 1 / 3 };
  const hertzHere = { min: can.band_hz.least, max: can.band_hz.most };
  const level = { unit: 'dB', digits: 0, step: 1, min: 0 };
  return (
    <>
      <Row>
        <NumberField
          label="Bands"
          value={limits.count ?? fitBands}
          digits={0}
          step={1}
          coarse={2}
          min={0}
          max={can.bands}
          onCommit={(count) => put({ count })}
        />
        <NumberField
          {...level}
          label="Boost to"
          value={limits.boost_db}
          max={can.band_gain_db.most}
          onCommit={(boost_db) => put({ boost_db })}
        />
        <NumberField
          {...level}
          label="Cut to"
          value={limits.cut_db}
          max={-can.band_gain_db.least}
          onCommit={(cut_db) => put({ cut_db })}
        />
        <NumberField
          label="Q to"
          value={limits.most_q}
          step={0.5}
          min={can.q.least}
          max={can.q.most}
          onCommit={(most_q) => put({ most_q })}
        />
      </Row>
      <Row>
        <NumberField
          {...band}
          {...hertzHere}
          label="From"
          value={limits.low_hz}
          onCommit={(low_hz) => put({ low_hz })}
        />
        <NumberField
          {...band}
          {...hertzHere}
          label="To"
          value={limits.high_hz}
          onCommit={(high_hz) => put({ high_hz })}
        />
        <Box sx={{ flex: 1 }}>
          <Button
            size="small"
            aria-expanded={more}
            onClick={() => setMore(!more)}
            data-testid="fit-more"
            sx={{ height: 30, width: '100%', fontSize: 12 }}>
            {more ? 'Less' : limits.weights.length || fitPlaces ? 'More, in use' : 'More'}
          </Button>
        </Box>
      </Row>
      {more && <FitMore places={places} />}
    </>
  );
}
