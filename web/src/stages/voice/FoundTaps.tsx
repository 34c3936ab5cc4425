/** Taps that were found: faults before and after, what is to be known; laid over the plots while one rests on them. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useTheme } from '@mui/material/styles';
import type { Fir } from '../../api/types';
import { hertz, plain } from '../../ui/format';
import { Resting } from '../common/Resting';

interface Shown {
  what: string;
  before: string;
  after: string;
  worse: boolean;
  title: string;
}

const rowsOf = (fir: Fir): Shown[] => {
  const rows: Shown[] = fir.ways.map((one) => ({
    what: one.name,
    before: `${plain(one.before.phase_deg, 0)}°`,
    after: `${plain(one.after.phase_deg, 0)}° · ${plain(one.after.level_db)} dB`,
    worse: one.after.phase_deg > one.before.phase_deg + 3,
    title:
      `${hertz(one.low_hz)} to ${hertz(one.high_hz)}. Phase off by ${plain(one.after.phase_deg)} degrees rms, ` +
      `${plain(one.after.worst_deg, 0)} at worst; ` +
      `level by ${plain(one.after.level_db)} dB rms; ${plain(one.pre_db, 0)} dB before the main pulse; ` +
      `lifts ${plain(one.boost_db)} dB`,
  }));
  if (fir.before && fir.after)
    rows.push({
      what: 'All together',
      before: `${plain(fir.before.phase_deg, 0)}°`,
      after: `${plain(fir.after.phase_deg, 0)}° · ${plain(fir.after.level_db)} dB`,
      worse: fir.after.phase_deg > fir.before.phase_deg + 3 || fir.after.level_db > fir.before.level_db + 0.5,
      title: `Phase off by ${plain(fir.after.worst_deg, 0)} degrees at worst`,
    });
  return rows;
};

export function FoundTaps({ fir, onShow, onUse }: { fir: Fir; onShow: (shown: boolean) => void; onUse: () => void }) {
  const { own } = useTheme();
  const early = Math.max(...fir.ways.map((one) => one.pre_db));
  return (
    <Resting testId="found-taps" first onShow={onShow}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Box sx={{ flex: 1 }}>{`${plain(fir.latency_ms)} ms late, ${plain(early, 0)} dB before the pulse`}</Box>
        <Button size="small" sx={{ py: 0, minWidth: 0 }} aria-label="Use these taps" onClick={onUse}>
          use
        </Button>
      </Box>
      {rowsOf(fir).map(({ what, before, after, worse, title }) => (
        <Box key={what} title={title} sx={{ display: 'flex', lineHeight: '18px' }}>
          <Box sx={{ flex: 1, color: own.quiet }}>{what}</Box>
          <Box sx={{ color: own.quiet, width: 44, textAlign: 'right' }}>{before}</Box>
          <Box sx={{ width: 108, textAlign: 'right', color: worse ? own.clayText : own.good }}>{`→ ${after}`}</Box>
        </Box>
      ))}
      {fir.places.length > 1 && (
        <Box sx={{ fontSize: 12, color: own.quiet }}>
          {fir.places
            .slice(1)
            .map(
              (one) =>
                `${one.place}: ${plain(one.before_deg, 0)}° → ${plain(one.after_deg, 0)}°` +
                (one.after_db ? `, ${plain(one.before_db)} → ${plain(one.after_db)} dB` : ''),
            )
            .join(' · ')}
        </Box>
      )}
      {fir.says.map((one) => (
        <Box key={one} sx={{ fontSize: 12, mt: 0.25 }}>
          {one}
        </Box>
      ))}
    </Resting>
  );
}
