/** The image: a band from both sides or one, where it stands, what that says, and what mends it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { client, settled } from '../../api/client';
import type { ImageBand } from '../../api/types';
import type { Work } from '../../state/project';
import { usePick, useWindow } from '../../state/window';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, KeyLine, Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import { hertz, minus } from '../../ui/format';
import { keysFree } from '../common/keysFree';
import { asListener, bandsLike, heardBy, keepAnswer, playBand, same, stopBand, useImage } from './image';
import { Mendings } from './Mendings';

const SIDES = [
  ['left', 'Left'],
  ['both', 'Both'],
  ['right', 'Right'],
] as const;

export function ImagePanel({ work }: { work: Work }) {
  const image = useImage(work);
  const { own } = useTheme();
  const { imageBand, imageSide, imageFar, imageHigh, imageBlind, imageLevel, imageSound, progress, set } = usePick(
    'imageBand',
    'imageSide',
    'imageFar',
    'imageHigh',
    'imageBlind',
    'imageLevel',
    'imageSound',
    'progress',
    'set',
  );
  const unsent = work.project.link.unsent.length > 0;
  const plays = progress?.kind === 'image' && work.recording;
  const answer = useWindow(heardBy);
  const here = image?.bands.find((one) => same(one, imageBand));
  const forget = () =>
    void work.begin(() =>
      settled(client.DELETE('/api/projects/{slug}/image/answers', { params: { path: { slug: work.slug } } })),
    );
  if (!image) return null;
  return (
    <Box onPointerUp={keysFree} sx={{ display: 'contents' }}>
      <Row>
        <Choice
          label="Band"
          value={imageBlind ? 0 : imageBand.hz}
          options={
            imageBlind
              ? [{ value: 0, text: 'not told' }]
              : bandsLike(image, imageBand.octaves).map(({ hz }) => ({ value: hz, text: hertz(hz) }))
          }
          onChange={(hz) => hz && set({ imageBand: { ...imageBand, hz }, imageMarks: [0, 0] })}
        />
        <Box sx={{ flex: 1.45, minWidth: 0 }}>
          <Choice
            label="Sound"
            value={imageSound === 'noise' && imageBand.octaves < 1 ? 'thirds' : imageSound}
            options={[
              { value: 'noise', text: 'noise, octave' },
              { value: 'thirds', text: 'noise, third' },
              { value: 'tone', text: 'tone' },
              { value: 'pulses', text: 'pulses' },
            ]}
            onChange={(value) => {
              const octaves = value === 'thirds' ? 1 / 3 : 1;
              const imageSound = value === 'thirds' ? 'noise' : value;
              set({ imageSound, imageBand: { ...imageBand, octaves }, imageMarks: [0, 0] });
              if (octaves !== imageBand.octaves) set({ imageBand: bandsLike(image, octaves)[0] });
            }}
          />
        </Box>
        <NumberField
          label="Level"
          unit="dBFS"
          value={imageLevel}
          digits={0}
          step={1}
          coarse={6}
          min={-80}
          max={-12}
          onCommit={(value) => set({ imageLevel: value })}
        />
      </Row>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={imageSide}
        aria-label="Which side plays"
        onChange={(_e, value) => value && (plays ? playBand(work, value) : set({ imageSide: value }))}>
        {SIDES.map(([id, name]) => (
          <ToggleButton key={id} value={id} sx={{ py: 0.2, fontSize: 13 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Row>
        <Button
          variant={plays ? 'outlined' : 'contained'}
          sx={{ flex: 1, py: 0.75 }}
          data-testid="image-play"
          disabled={work.recording && !plays}
          onClick={() => (plays ? stopBand(work) : playBand(work))}>
          {plays ? 'Stop' : unsent ? 'Send and play' : 'Play the band'}
        </Button>
        <Button
          variant={plays ? 'contained' : 'outlined'}
          sx={{ flex: 1, py: 0.75 }}
          data-testid="image-keep"
          disabled={unsent || (work.recording && !plays)}
          onClick={() => keepAnswer(work)}>
          It stands there
        </Button>
      </Row>
      {image.listener && answer && (
        <Button variant="outlined" data-testid="image-listener" onClick={asListener}>
          As the stand-in’s listener hears it
        </Button>
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 2 }}>
        <Tick label="far off" on={imageFar} onTurn={(on) => set({ imageFar: on })} />
        <Tick label="high" on={imageHigh} onTurn={(on) => set({ imageHigh: on })} />
        <Tick label="blind" on={imageBlind} onTurn={(on) => set({ imageBlind: on, imageMarks: [0, 0] })} />
      </Box>
      {progress?.kind === 'image' && progress.message && progress.stage === 'refused' && (
        <Typography role="status" sx={{ fontSize: 12.5, color: own.clayText }}>
          {progress.message}
        </Typography>
      )}
      {!imageBlind && here && <Says band={here} />}
      {!imageBlind && <Mendings work={work} image={image} />}
      {image.bands.some((one) => one.state !== 'unheard') && (
        <Button size="small" sx={{ alignSelf: 'flex-start' }} onClick={forget}>
          Forget all answers
        </Button>
      )}
      <KeyLine>Space play · ← → place · X in two · Enter keep · ↑ ↓ band</KeyLine>
    </Box>
  );
}

/** What a band says. */
function Says({ band }: { band: ImageBand }) {
  const { stands, state } = band;
  const { own } = useTheme();
  return (
    <Section title={hertz(band.hz)} aside={stands && stands.count > 1 ? `${stands.count} answers` : ''}>
      {!stands && (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          {state === 'again'
            ? 'The tune was changed here since it was heard: listen again.'
            : 'Not heard yet: play it, put the mark where it stands, and keep it.'}
        </Typography>
      )}
      {stands && (
        <Typography sx={{ fontSize: 13, color: stands.sounds === 'centre' ? own.good : own.clayText }}>
          {minus(stands.says)}
        </Typography>
      )}
      {stands && stands.count > 1 && (
        <Figure name="answers differ by" value={`±${Math.round(stands.spread * 100)} %`} />
      )}
    </Section>
  );
}
