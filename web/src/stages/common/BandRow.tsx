/** One band as figures. */
import CloseIcon from '@mui/icons-material/CloseOutlined';
import OnIcon from '@mui/icons-material/RadioButtonChecked';
import OffIcon from '@mui/icons-material/RadioButtonUnchecked';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { useTheme } from '@mui/material/styles';
import type { Band, Limits } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { useWindow } from '../../state/window';
import { octavesOf, qOf } from '../../state/width';
import { hasGain, KINDS } from './bands';
import { stepOf } from '../../ui/format';

interface Props {
  one: Band;
  n: number;
  /** What the processor can do. */
  can: Limits;
  /** Puts another band in its place, or none. */
  put: (band: Band | null) => void;
}

export function BandRow({ one, n, can, put }: Props) {
  const { own } = useTheme();
  const band = useWindow((state) => state.band);
  const set = useWindow((state) => state.set);
  const width = useWindow((state) => state.width);
  const change = (values: Partial<Band>) => put({ ...one, ...values });
  const name = `Band ${n + 1}`;
  return (
    <Box
      role="listitem"
      onFocus={() => set({ band: n })}
      sx={{
        display: 'flex',
        gap: '2px',
        alignItems: 'center',
        flexShrink: 0,
        bgcolor: band === n ? own.raised : 'transparent',
        borderRadius: 0.75,
        '& .MuiInputBase-root': { height: 24, px: 0.5, fontSize: 12 },
      }}>
      <IconButton
        size="small"
        aria-label={`${name} works`}
        aria-pressed={!one.off}
        title={one.off ? 'Let it work again' : 'Bypass it, to hear what it does'}
        sx={{ p: 0.25, color: one.off ? own.quiet : own.clayText }}
        onClick={() => change({ off: !one.off })}>
        {one.off ? <OffIcon sx={{ fontSize: 14 }} /> : <OnIcon sx={{ fontSize: 14 }} />}
      </IconButton>
      <Box sx={{ width: 80, flexShrink: 0 }}>
        <Choice
          label={`${name} kind`}
          hideLabel
          value={one.kind}
          options={KINDS}
          onChange={(kind) => change({ kind })}
        />
      </Box>
      <NumberField
        label={`${name} frequency`}
        hideLabel
        unit="Hz"
        value={one.frequency_hz}
        digits={0}
        factor
        step={1 / 48}
        coarse={1 / 6}
        min={can.band_hz.least}
        max={can.band_hz.most}
        onCommit={(frequency_hz) => change({ frequency_hz })}
      />
      {hasGain(one) ? (
        <NumberField
          label={`${name} gain`}
          hideLabel
          unit="dB"
          sign
          value={one.gain_db}
          step={stepOf(can.band_gain_db)}
          coarse={10 * stepOf(can.band_gain_db)}
          min={can.band_gain_db.least}
          max={can.band_gain_db.most}
          onCommit={(gain_db) => change({ gain_db })}
        />
      ) : (
        <Box sx={{ flex: 1 }} />
      )}
      <Box sx={{ width: 46, flexShrink: 0 }}>
        {one.kind === 'all_pass_1' ? null : width === 'Q' ? (
          <NumberField
            label={`${name} Q`}
            hideLabel
            value={one.q}
            digits={2}
            factor
            step={1 / 12}
            coarse={1 / 3}
            min={can.q.least}
            max={can.q.most}
            onCommit={(q) => change({ q })}
          />
        ) : (
          <NumberField
            label={`${name} width in octaves`}
            hideLabel
            value={octavesOf(one.q)}
            digits={2}
            factor
            step={1 / 12}
            coarse={1 / 3}
            min={octavesOf(can.q.most)}
            max={octavesOf(can.q.least)}
            onCommit={(octaves) => change({ q: qOf(octaves) })}
          />
        )}
      </Box>
      <IconButton size="small" aria-label={`Remove band ${n + 1}`} sx={{ p: 0.25 }} onClick={() => put(null)}>
        <CloseIcon sx={{ fontSize: 15 }} />
      </IconButton>
    </Box>
  );
}
