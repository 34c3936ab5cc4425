/** What is heard, large: A, B and X, which of them sounds, where the piece is, and what the trials came to. */
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../../api/client';
import type { Audition } from '../../api/types';
import { usePick, useWindow } from '../../state/window';
import { plain } from '../../ui/format';
import { HintToggle } from '../common/Hint';
import { PlotHead } from '../common/PlotHead';
import type { StageProps } from '../props';
import { hear, sayX, useAudition, useSong, type Which } from './listen';

export function ListenPlots({ work }: StageProps) {
  const audition = useAudition(work);
  const { own } = useTheme();
  const { progress, listenTold } = usePick('progress', 'listenTold');
  const left = useWindow((state) => state.moment?.seconds_left ?? 0);
  const listenSong = useSong();
  const plays = progress?.kind === 'music' && work.recording;
  const sounds = plays ? (progress?.result?.sounds ?? 'a') : null;
  const song = audition?.songs.find((one) => one.id === listenSong);
  const { data: loud } = useQuery({
    queryKey: ['loudness', work.slug, work.project.version, listenSong],
    enabled: Boolean(song && audition && audition.a !== audition.b),
    queryFn: () =>
      settled<{ a_db: number; b_db: number }>(
        client.GET('/api/projects/{slug}/audition/loudness/{song_id}', {
          params: { path: { slug: work.slug, song_id: listenSong } },
        }),
      ),
  });
  if (!audition) return <Box />;
  // It goes round and round a whole number of times.
  const gone = song && plays ? song.seconds - (left % song.seconds) : 0;
  const lowered = { a: loud?.a_db ?? 0, b: loud?.b_db ?? 0 };
  const name = (which: 'a' | 'b') => nameOf(audition, audition[which]);
  const apart = audition.a !== audition.b;
  return (
    <Box sx={{ minHeight: 0, display: 'grid', gridTemplateRows: 'auto 1fr auto auto', rowGap: 1 }}>
      <div>
        <PlotHead
          smoothed={false}
          title="Listen"
          says={song ? `${song.name}${plays ? '' : ', silent'}` : ''}
          aside={<HintToggle />}
          hint={
            audition.blind
              ? 'X is A or B, and nobody tells which. Hear all three as often as you like, and say what it is.'
              : 'The same music through two tunes, both as loud: what is louder is taken for better.'
          }
        />
      </div>
      <Box sx={{ display: 'flex', gap: 2, px: '52px', pr: '24px', minHeight: 0 }}>
        <Voice which="a" sounds={sounds} name={name('a')} aside={lowering(lowered.a)} onHear={() => hear(work, 'a')} />
        <Voice
          which="b"
          sounds={sounds}
          name={name('b')}
          aside={apart ? lowering(lowered.b) : 'the same as A: choose another'}
          onHear={() => hear(work, 'b')}
        />
        {audition.blind && <Voice which="x" sounds={sounds} name="A or B" aside="" onHear={() => hear(work, 'x')} />}
      </Box>
      {audition.blind ? (
        <Box sx={{ display: 'flex', gap: 2, px: '52px', pr: '24px', alignItems: 'center' }}>
          {(['a', 'b'] as const).map((one) => (
            <ButtonBase
              key={one}
              data-testid={`x-is-${one}`}
              onClick={() => sayX(work, one)}
              sx={{
                width: 150,
                height: 52,
                borderRadius: 1,
                border: 1,
                borderColor: own.line,
                fontSize: 18,
                fontWeight: 600,
                color: own.text,
                flexShrink: 0,
              }}>
              {`X is ${one.toUpperCase()}`}
            </ButtonBase>
          ))}
          <Box sx={{ minWidth: 0 }} role="status" data-testid="trials">
            <Typography sx={{ fontSize: 22, fontWeight: 600, lineHeight: '26px' }}>
              {audition.trials.count ? `${audition.trials.right} of ${audition.trials.count} right` : 'No trial yet'}
              {listenTold && (
                <Box
                  component="span"
                  sx={{ fontSize: 15, ml: 1.5, color: listenTold.was === listenTold.said ? own.good : own.clayText }}>
                  {`it was ${listenTold.was.toUpperCase()}`}
                </Box>
              )}
            </Typography>
            <Typography sx={{ fontSize: 12, color: own.quiet }}>
              {audition.trials.count ? `${audition.trials.says}.` : 'Ten trials or so tell.'}
            </Typography>
          </Box>
        </Box>
      ) : (
        <Box />
      )}
      <Box sx={{ px: '52px', pr: '24px', pb: 1.5 }}>
        <LinearProgress
          variant="determinate"
          aria-label="How far the piece is"
          value={song ? Math.min(100, (100 * gone) / song.seconds) : 0}
        />
        <Box sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12, color: own.quiet, mt: 0.25 }}>
          <span>{minutes(gone)}</span>
          <span>{song ? minutes(song.seconds) : ''}</span>
        </Box>
      </Box>
    </Box>
  );
}

/** One of the tunes, as large as the room is: lit while it sounds. */
function Voice({
  which,
  sounds,
  name,
  aside,
  onHear,
}: {
  which: Which;
  sounds: Which | null;
  name: string;
  aside: string;
  onHear: () => void;
}) {
  const { own } = useTheme();
  const lit = sounds === which;
  return (
    <ButtonBase
      data-testid={`hear-${which}`}
      aria-pressed={lit}
      onClick={onHear}
      sx={{
        flex: 1,
        minWidth: 0,
        borderRadius: 2,
        border: 3,
        borderColor: lit ? own.clay : own.line,
        bgcolor: lit ? own.raised : own.plot,
        display: 'flex',
        flexDirection: 'column',
        gap: 1,
        px: 2,
      }}>
      <Box sx={{ fontSize: 96, fontWeight: 600, lineHeight: 1, color: lit ? own.clayText : own.text }}>
        {which.toUpperCase()}
      </Box>
      <Box sx={{ fontSize: 15, color: own.text, textAlign: 'center' }}>{name}</Box>
      <Box sx={{ fontSize: 12, color: own.quiet }}>{aside}</Box>
    </ButtonBase>
  );
}

export const nameOf = (audition: Audition, key: string) =>
  audition.versions.find((one) => one.key === key)?.name ?? 'not there any more';

const lowering = (db: number) => (db < -0.04 ? `${plain(-db)} dB down, to be as loud` : '');
const minutes = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`;
