/** The microphone's corrections for both directions, and a correction made for a plain microphone. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import { client, settled } from '../../api/client';
import { formWith } from '../../api/files';
import type { Take } from '../../api/types';
import { FileInput, useFile } from '../../ui/FileInput';
import { Choice } from '../../ui/Field';
import { Section } from '../../ui/Panel';
import { clock, hertz, plain } from '../../ui/format';
import type { StageProps } from '../props';
import { useRigChange } from './useRigChange';

const POINTINGS = [
  ['source', '0°, at the source'],
  ['ceiling', '90°, at the ceiling'],
] as const;

export function MicrophonePart({ work }: StageProps) {
  const { rig } = work.project;
  const { onRig } = work;
  const change = useRigChange(work);
  const file = useFile();
  const asked = useRef<'source' | 'ceiling'>('ceiling');
  const bring = (file: File) => {
    void onRig(async () =>
      settled(client.POST('/api/rig/corrections', { body: formWith(file, { pointing: asked.current }) as never })),
    );
  };
  return (
    <>
      <Section title="The microphone points">
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={rig.pointing}
          aria-label="Where the microphone points"
          onChange={(_e, value) => value && change({ pointing: value })}>
          {POINTINGS.map(([id, text]) => (
            <ToggleButton key={id} value={id} sx={{ py: 0.2, fontSize: 12.5 }}>
              {text}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Section>
      {POINTINGS.map(([id, text]) => {
        const chosen = rig.correction_list.find((one) => one.id === rig.corrections[id]);
        return (
          <Section key={id} title={`Correction for ${text}`}>
            <Choice
              label={`Correction for ${text}`}
              hideLabel
              value={rig.corrections[id] ?? 0}
              options={[
                { value: 0, text: 'none' },
                ...rig.correction_list.map((one) => ({ value: one.id, text: one.name })),
              ]}
              onChange={(value) => change({ corrections: { ...rig.corrections, [id]: value || null } })}
            />
            <Box sx={{ display: 'flex', gap: 1.5, mt: 0.5, fontSize: 12, alignItems: 'baseline' }}>
              <Button
                size="small"
                variant="outlined"
                sx={{ py: 0, px: 0.75, fontSize: 12 }}
                onClick={() => {
                  asked.current = id;
                  file.ask();
                }}>
                Bring a file
              </Button>
              {chosen && (
                <Link href={`/api/rig/corrections/${chosen.id}.txt`} download>
                  Text
                </Link>
              )}
              {chosen?.sensitivity && (
                <Box component="span" color="text.secondary">{`sheet: ${chosen.sensitivity}`}</Box>
              )}
            </Box>
          </Section>
        );
      })}
      <FileInput file={file} accept=".txt,.csv,.cal,text/plain" testId="bring-correction" onBring={bring} />
      <PlainMicrophone work={work} selection="" />
    </>
  );
}

/** Two takes of one driver at one spot, with the corrected microphone and with the plain one. */
function PlainMicrophone({ work }: StageProps) {
  const { project, slug, onRig } = work;
  const takes = project.takes.filter(
    (one) => one.purpose === 'driver' && !one.discarded && (one.method === 'sweep' || one.method === 'moving'),
  );
  const [known, setKnown] = useState(0);
  const [plainTake, setPlain] = useState(0);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const name = (one: Take) =>
    `${project.layout.drivers.find((d) => d.id === one.channels[0])?.name} · ${clock(one.made)} · take ${one.id}`;
  const first = takes.find((one) => one.id === known);
  const pairs = first ? takes.filter((one) => one.id !== known && one.channels[0] === first.channels[0]) : [];
  const path = { params: { path: { slug } } };
  const body = { known, plain: plainTake, name: 'Plain microphone' };
  const make = () =>
    void onRig(async () => {
      const found = await settled<{ low_hz: number; high_hz: number }>(
        client.POST('/api/projects/{slug}/correction', { ...path, body }),
      );
      setSays({
        good: true,
        text:
          `Made, from ${hertz(found.low_hz)} to ${hertz(found.high_hz)}. Choose it ` +
          `for fresh takes with the plain microphone, then verify with a fresh pair.`,
      });
    });
  const verify = () =>
    void onRig(async () => {
      const found = await settled<{ worst_db: number; worst_hz: number; rms_db: number; agrees: boolean }>(
        client.POST('/api/projects/{slug}/correction/verify', { ...path, body }),
      );
      setSays({
        good: found.agrees,
        text:
          `${found.agrees ? 'They agree' : 'They do not agree'}: at ` +
          `most ${plain(found.worst_db)} dB apart at ${hertz(found.worst_hz)}` +
          `, ${plain(found.rms_db)} dB rms. The aim is 1 dB.`,
      });
    });
  return (
    <Section title="Correction for a plain microphone" aside="from two takes">
      <Choice
        label="Take with the corrected microphone"
        value={known}
        options={[{ value: 0, text: 'choose …' }, ...takes.map((one) => ({ value: one.id, text: name(one) }))]}
        onChange={(value) => {
          setKnown(value);
          setPlain(0);
        }}
      />
      <Choice
        label="Take with the plain one, same driver, same spot"
        value={plainTake}
        options={[{ value: 0, text: 'choose …' }, ...pairs.map((one) => ({ value: one.id, text: name(one) }))]}
        onChange={setPlain}
      />
      <Box sx={{ display: 'flex', gap: 1, mt: 0.75 }}>
        <Button
          variant="outlined"
          size="small"
          disabled={!known || !plainTake}
          onClick={make}
          data-testid="make-correction">
          Make the correction
        </Button>
        <Button
          variant="outlined"
          size="small"
          disabled={!known || !plainTake}
          onClick={verify}
          data-testid="verify-correction">
          Verify the pair
        </Button>
      </Box>
      {says && (
        <Typography
          data-testid="pair-says"
          sx={{ fontSize: 12, mt: 0.5, color: (t) => (says.good ? t.own.good : t.own.clayText) }}>
          {says.text}
        </Typography>
      )}
    </Section>
  );
}
