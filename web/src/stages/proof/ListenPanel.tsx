/** Listening: which piece, which two tunes, blind or not; the common correction under the hand; notes. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import CloseIcon from '@mui/icons-material/Close';
import { useState } from 'react';
import type { Audition, Band } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import type { Work } from '../../state/project';
import { usePick } from '../../state/window';
import { Choice, NumberField } from '../../ui/Field';
import { KeyLine, Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import { keysFree } from '../common/keysFree';
import { BandRow } from '../common/BandRow';
import {
  compare,
  dropNote,
  dropSong,
  forgetTrials,
  bringSong,
  makeNote,
  playMusic,
  useAudition,
  useSong,
} from './listen';
import { nameOf } from './ListenPlots';

export function ListenPanel({ work }: { work: Work }) {
  const audition = useAudition(work);
  const { own } = useTheme();
  const { listenLevel, listenOn, progress, set } = usePick('listenLevel', 'listenOn', 'progress', 'set');
  const listenSong = useSong();
  const file = useFile();
  const plays = progress?.kind === 'music' && work.recording;
  const goOn = (on: boolean) => {
    set({ listenOn: on });
    if (plays) playMusic(work, progress.result?.sounds ?? 'a', listenSong);
  };
  if (!audition) return null;
  const options = audition.versions.map((one) => ({ value: one.key, text: one.name }));
  const known = (key: string) =>
    options.some((one) => one.value === key) ? options : [...options, { value: key, text: 'not there any more' }];
  return (
    <Box onPointerUp={keysFree} sx={{ display: 'contents' }}>
      <Row>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Choice
            label="Piece"
            value={listenSong}
            options={audition.songs.map((one) => ({ value: one.id, text: one.name }))}
            onChange={(id) => (plays ? playMusic(work, 'a', id) : set({ listenSong: id }))}
          />
        </Box>
        <Box sx={{ width: 96 }}>
          <NumberField
            label="Peaks at"
            unit="dBFS"
            value={listenLevel}
            digits={0}
            step={1}
            coarse={6}
            min={-80}
            max={0}
            onCommit={(value) => set({ listenLevel: value })}
          />
        </Box>
      </Row>
      <Row>
        <Button
          variant={plays ? 'outlined' : 'contained'}
          sx={{ flex: 1 }}
          data-testid="play-music"
          disabled={work.recording && !plays}
          onClick={() => (plays ? work.stop() : playMusic(work))}>
          {plays ? 'Stop' : 'Play'}
        </Button>
        <Button variant="outlined" onClick={() => file.ask('audio/*,.wav,.flac,.ogg,.mp3')}>
          Bring music …
        </Button>
        {listenSong > 0 && (
          <IconButton size="small" aria-label="Take this piece away" onClick={() => dropSong(work, listenSong)}>
            <CloseIcon sx={{ fontSize: 16 }} />
          </IconButton>
        )}
        <FileInput file={file} testId="bring-music" onBring={(chosen) => bringSong(work, chosen)} />
      </Row>
      <Tick label="Go on to the next piece" on={listenOn} onTurn={goOn} testId="go-on" />
      {progress?.kind === 'music' && progress.stage === 'refused' && (
        <Typography role="status" sx={{ fontSize: 12.5, color: own.clayText }}>
          {progress.message}
        </Typography>
      )}
      <Row>
        <Choice
          label="A"
          value={audition.a}
          options={known(audition.a)}
          onChange={(a) => compare(work, audition, { a, blind: audition.blind && a !== audition.b })}
        />
        <Choice
          label="B"
          value={audition.b}
          options={known(audition.b)}
          onChange={(b) => compare(work, audition, { b, blind: audition.blind && b !== audition.a })}
        />
      </Row>
      <Box sx={{ display: 'flex', alignItems: 'center', columnGap: 2 }}>
        <Tick label="blind, with an X" on={audition.blind} onTurn={(blind) => compare(work, audition, { blind })} />
        {audition.trials.count > 0 && (
          <Button size="small" sx={{ py: 0 }} onClick={() => forgetTrials(work)}>
            Begin anew
          </Button>
        )}
      </Box>
      <Common work={work} audition={audition} />
      <Notes work={work} audition={audition} />
      <KeyLine>Space play · A B X hear · ← X is A · → X is B</KeyLine>
    </Box>
  );
}

/** What may be turned while one listens: the correction common to all channels leaves the image where it is. */
function Common({ work, audition }: { work: Work; audition: Audition }) {
  const { common } = work.tune;
  const put = (index: number, band: Band | null) => void work.commit([{ do: 'band', channel: null, index, band }]);
  const free = work.project.link.limits.bands;
  const most = Math.max(...Object.values(work.tune.channels).map((one) => one.bands.length));
  const add = (kind: 'low_shelf' | 'high_shelf', frequency_hz: number) =>
    put(common.length, { kind, frequency_hz, gain_db: 1, q: 0.7, off: false });
  return (
    <Section title="Common to all channels" aside="the image stays">
      <Box role="list" sx={{ maxHeight: 110, overflow: 'auto' }}>
        {common.map((one, n) => (
          <BandRow key={n} one={one} n={n} can={work.project.link.limits} put={(next) => put(n, next)} />
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <Button size="small" disabled={common.length + most >= free} onClick={() => add('low_shelf', 120)}>
          More bass
        </Button>
        <Button size="small" disabled={common.length + most >= free} onClick={() => add('high_shelf', 4000)}>
          More treble
        </Button>
      </Box>
      <Tick
        label="let changes of single channels be heard too"
        on={audition.unlocked}
        onTurn={(unlocked) => compare(work, audition, { unlocked })}
      />
    </Section>
  );
}

function Notes({ work, audition }: { work: Work; audition: Audition }) {
  const { own } = useTheme();
  const { progress } = usePick('progress');
  const listenSong = useSong();
  const [text, setText] = useState('');
  const keep = () => {
    const song = audition.songs.find((one) => one.id === listenSong)?.name ?? '';
    const sounds = progress?.kind === 'music' && work.recording ? progress.result?.sounds : undefined;
    const of = sounds === 'a' || sounds === 'b' ? `, ${nameOf(audition, audition[sounds])}` : '';
    void makeNote(work, text, `${song}${of}`).then((kept) => kept && setText(''));
  };
  return (
    <Section title="Notes" aside={audition.notes.length || ''}>
      <Row>
        <InputBase
          value={text}
          placeholder="what you hear"
          inputProps={{ 'aria-label': 'Note', maxLength: 1000 }}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' || !text.trim()) return;
            keep();
            (event.target as HTMLElement).blur(); // the keys are for the music again
          }}
          sx={{ flex: 1, fontSize: 13, height: 30, px: 1, bgcolor: own.plot, border: 1, borderColor: own.line }}
        />
        <Button variant="outlined" disabled={!text.trim()} onClick={keep} data-testid="keep-note">
          Note
        </Button>
      </Row>
      <Box component="ul" sx={{ m: 0, mt: 0.5, p: 0, listStyle: 'none', maxHeight: 90, overflow: 'auto' }}>
        {audition.notes.map((one) => (
          <Box component="li" key={one.id} sx={{ display: 'flex', gap: 0.5, fontSize: 12.5, alignItems: 'start' }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              {one.text}
              <Box component="span" sx={{ color: own.quiet, fontSize: 11.5 }}>
                {` · revision ${one.revision} · ${one.heard}`}
              </Box>
            </Box>
            <IconButton
              size="small"
              sx={{ p: 0.25 }}
              aria-label="Take the note away"
              onClick={() => dropNote(work, one.id)}>
              <CloseIcon sx={{ fontSize: 14 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
    </Section>
  );
}
