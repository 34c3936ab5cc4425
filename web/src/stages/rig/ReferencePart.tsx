/** Reference level: a calibrator on the microphone, or a level meter read while pink noise plays. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../../api/client';
import { Choice, NumberField } from '../../ui/Field';
import { Figure, Row, Section } from '../../ui/Panel';
import { clock, plain } from '../../ui/format';
import { useWindow } from '../../state/window';
import type { StageProps } from '../props';

export function ReferencePart({ work }: StageProps) {
  const { project, slug, begin, onRig, recording } = work;
  const { rig } = project;
  const progress = useWindow((state) => state.progress);
  const [channel, setChannel] = useState(
    project.layout.drivers.find((one) => one.kind === 'mid')?.id ?? project.layout.drivers[0].id,
  );
  const [reads, setReads] = useState(80);
  const calibrate = (level: number) =>
    void begin(() => settled(client.POST('/api/rig/calibrate', { body: { level_db: level } })));
  const noise = () =>
    void begin(() =>
      settled(client.POST('/api/projects/{slug}/meter-noise', { params: { path: { slug } }, body: { channel } })),
    );
  const set = () => void onRig(() => settled(client.POST('/api/rig/meter', { body: { reading_db_c: reads } })));
  const found = progress?.kind === 'signal' ? progress.result : null;
  const heard = found?.level_dbfs_c;
  const state = rig.ready.find((one) => one.key === 'reference');
  return (
    <>
      {rig.reference ? (
        <Section title={state?.state === 'stale' ? 'Stale' : 'Set'} aside={clock(rig.reference.made)}>
          <Figure
            name="Full scale is"
            value={`${plain(rig.reference.full_scale_db_spl)} dB SPL`}
            tone={state?.state === 'stale' ? 'clay' : 'good'}
          />
          <Typography sx={{ fontSize: 12, color: (t) => (state?.state === 'stale' ? t.own.clayText : t.own.quiet) }}>
            {state?.state === 'stale' ? `${state.says}: set it again.` : `By ${rig.reference.how}.`}
          </Typography>
        </Section>
      ) : (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          {'Not set: curves assume that full scale is ' + `${plain(rig.full_scale_db_spl)} dB SPL.`}
        </Typography>
      )}
      <Section title="By a calibrator" aside="1 kHz">
        <Typography sx={{ fontSize: 12, mb: 0.5 }} color="text.secondary">
          Put it on the microphone and switch it on.{rig.practice && ' The stand-in’s is in the practice menu.'}
        </Typography>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            variant="outlined"
            sx={{ flex: 1 }}
            disabled={recording}
            onClick={() => calibrate(94)}
            data-testid="calibrate-94">
            It gives 94 dB
          </Button>
          <Button
            variant="outlined"
            sx={{ flex: 1 }}
            disabled={recording}
            onClick={() => calibrate(114)}
            data-testid="calibrate-114">
            It gives 114 dB
          </Button>
        </Box>
      </Section>
      <Section title="By a level meter" aside="C weighting, slow">
        <Row>
          <Choice
            label="Pink noise through"
            value={channel}
            options={project.layout.drivers.map((one) => ({ value: one.id, text: one.name }))}
            onChange={setChannel}
          />
          <Button variant="outlined" disabled={recording} onClick={noise} data-testid="meter-noise">
            Play
          </Button>
        </Row>
        {found?.meter_db_c != null && (
          <Typography sx={{ fontSize: 12, mt: 0.5 }} data-testid="meter-reads">
            {'The level meter on the stand-in’s seat reads ' + `${plain(found.meter_db_c)} dB C.`}
          </Typography>
        )}
        <Row>
          <NumberField
            label="The meter reads"
            unit="dB C"
            value={reads}
            step={0.1}
            coarse={1}
            min={30}
            max={140}
            onCommit={setReads}
          />
          <Button variant="outlined" disabled={heard === undefined} onClick={set} data-testid="set-meter">
            Set by this
          </Button>
        </Row>
      </Section>
    </>
  );
}
