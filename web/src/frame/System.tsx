/** Projects, a new one from a layout, and the system of the present one: its drivers and their outputs. */
import Delete from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { client, Refusal, settled } from '../api/client';
import type { Driver, Kind, Layout, Remark, Side } from '../api/types';
import { useWindow } from '../state/window';
import { Choice } from '../ui/Field';
import { Row, Section } from '../ui/Panel';
import type { Work } from '../state/project';

interface Known {
  projects: { slug: string; name: string; drivers: number; takes: number; created: string }[];
  ready: { key: string; name: string; layout: Layout }[];
  kinds: { kind: Kind; name: string }[];
  outputs: number;
}

const SIDES: { value: Side; text: string }[] = [
  { value: 'left', text: 'left' },
  { value: 'right', text: 'right' },
  { value: 'both', text: 'mono' },
];

export function System({ work, onClose }: { work: Work; onClose: () => void }) {
  const { project, slug, act } = work;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const set = useWindow((state) => state.set);
  const { data } = useQuery({
    queryKey: ['projects'],
    queryFn: () => settled<Known>(client.GET('/api/projects')),
    staleTime: 0,
  });
  const [name, setName] = useState('');
  const [ready, setReady] = useState('front-3-sub');
  const [seat, setSeat] = useState<'left' | 'right'>('left');
  const [wrong, setWrong] = useState('');
  const open = (to: string) => {
    set({
      selection: '',
      seam: '',
      picture: null,
      olderTake: null,
      compare: null,
      proofTake: null,
      proofChannels: null,
      growing: null,
    });
    navigate(`/${to}/${to === slug ? work.stage : 'drivers'}`);
    onClose();
  };
  const begin = async () => {
    try {
      const made = await settled<{ slug: string }>(client.POST('/api/projects', { body: { name, ready, seat } }));
      void queries.invalidateQueries({ queryKey: ['projects'] });
      open(made.slug);
    } catch (error) {
      setWrong(error instanceof Refusal ? error.message : String(error));
    }
  };
  const change = (layout: Layout) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/layout', { params: { path: { slug } }, body: layout })),
    ).then((done) => {
      if (done) set({ selection: '', seam: '' });
    });
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="md" aria-labelledby="system-title">
      <DialogTitle id="system-title">Projects and system</DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: '290px 1fr', gap: 3 }}>
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
          <Section title="Projects">
            <Box sx={{ maxHeight: 190, overflowY: 'auto' }}>
              {data?.projects.map((one) => (
                <Button
                  key={one.slug}
                  fullWidth
                  variant={one.slug === slug ? 'outlined' : 'text'}
                  onClick={() => open(one.slug)}
                  data-testid={`project-${one.slug}`}
                  sx={{ justifyContent: 'space-between', fontWeight: 400 }}>
                  <span>{one.name}</span>
                  <span>{`${one.drivers} drivers · ${one.takes} takes`}</span>
                </Button>
              ))}
            </Box>
          </Section>
          <Section title="A new project">
            <InputBase
              value={name}
              placeholder="Name"
              onChange={(event) => setName(event.target.value)}
              inputProps={{ 'aria-label': 'Name of the new project', maxLength: 80 }}
              onKeyDown={(event) => {
                if (event.key === 'Enter' && name.trim()) void begin();
              }}
              sx={{
                width: '100%',
                fontSize: 13,
                height: 30,
                px: 1,
                border: 1,
                borderColor: 'divider',
                borderRadius: 1,
              }}
            />
            <Row>
              <Choice
                label="Layout"
                value={ready}
                options={(data?.ready ?? [{ key: ready, name: '…' }]).map((one) => ({
                  value: one.key,
                  text: one.name,
                }))}
                onChange={setReady}
              />
            </Row>
            <Row>
              <Choice
                label="The listener sits"
                value={seat}
                options={[
                  { value: 'left', text: 'left' },
                  { value: 'right', text: 'right' },
                ]}
                onChange={setSeat}
              />
              <Button
                variant="contained"
                disabled={!name.trim()}
                onClick={() => void begin()}
                data-testid="begin-project">
                Begin
              </Button>
            </Row>
            {wrong && (
              <Typography role="alert" sx={{ fontSize: 12.5, mt: 0.5, color: (t) => t.own.clayText }}>
                {wrong}
              </Typography>
            )}
          </Section>
        </Box>
        <Editor
          key={JSON.stringify(project.layout)}
          layout={project.layout}
          title={project.name}
          outputs={project.link.limits.outputs}
          kinds={data?.kinds ?? []}
          onKeep={change}
        />
      </DialogContent>
    </Dialog>
  );
}

function Editor({
  layout,
  title,
  outputs,
  kinds,
  onKeep,
}: {
  layout: Layout;
  title: string;
  outputs: number;
  kinds: Known['kinds'];
  onKeep: (layout: Layout) => void;
}) {
  const [draft, setDraft] = useState(layout);
  const nameOf = (one: Kind) => kinds.find((known) => known.kind === one)?.name ?? one;
  const [remarks, setRemarks] = useState<Remark[]>([]);
  const [kind, setKind] = useState<Kind>('rear');
  const [side, setSide] = useState<Side>('left');
  useEffect(() => {
    let current = true;
    void settled<Remark[]>(client.POST('/api/layout/remarks', { body: draft }))
      .then((found) => current && setRemarks(found))
      .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [draft]);
  const put = (id: string, values: Partial<Driver>) =>
    setDraft({ ...draft, drivers: draft.drivers.map((one) => (one.id === id ? { ...one, ...values } : one)) });
  const add = () =>
    void settled<Layout>(client.POST('/api/layout/driver', { body: { layout: draft, kind, side } }))
      .then(setDraft)
      .catch(() => undefined);
  const changed = JSON.stringify(draft) !== JSON.stringify(layout);
  const barred = remarks.some((one) => one.bars);
  return (
    <Section title={`System of ${title}`} aside={`${draft.drivers.length} of ${outputs} outputs`}>
      <Box sx={{ maxHeight: 330, overflowY: 'auto', mt: 0.5 }}>
        {draft.drivers.map((one, n) => (
          <Box key={n} data-testid={`system-${one.id}`} sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5 }}>
            <Box sx={{ width: 4, height: 28, borderRadius: 1, bgcolor: (t) => t.own.ways[one.kind] }} />
            <InputBase
              value={one.name}
              onChange={(event) => put(one.id, { name: event.target.value })}
              inputProps={{ 'aria-label': `Name of ${one.id}`, maxLength: 40 }}
              sx={{ flex: 1, fontSize: 13, height: 28, px: 1, border: 1, borderColor: 'divider', borderRadius: 1 }}
            />
            <Box
              sx={{
                width: 80,
                fontSize: 12.5,
                color: 'text.secondary',
              }}>{`${nameOf(one.kind).toLowerCase()}, ${SIDES.find((s) => s.value === one.side)!.text}`}</Box>
            <Box sx={{ width: 92 }}>
              <Choice
                label={`Output of ${one.name}`}
                hideLabel
                value={one.output}
                options={Array.from({ length: Math.max(outputs, one.output) }, (_, m) => ({
                  value: m + 1,
                  text: `output ${m + 1}`,
                }))}
                onChange={(output) => put(one.id, { output })}
              />
            </Box>
            <IconButton
              size="small"
              aria-label={`Remove ${one.name}`}
              onClick={() => setDraft({ ...draft, drivers: draft.drivers.filter((other) => other !== one) })}>
              <Delete fontSize="small" />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Row>
        <Choice
          label="Another driver"
          value={kind}
          options={
            kinds.length ? kinds.map((one) => ({ value: one.kind, text: one.name })) : [{ value: kind, text: kind }]
          }
          onChange={setKind}
        />
        <Choice label="Side" value={side} options={SIDES} onChange={setSide} />
        <Button variant="outlined" onClick={add} data-testid="add-driver">
          Add
        </Button>
      </Row>
      <Box data-testid="remarks" sx={{ mt: 1, minHeight: 20 }}>
        {remarks.map((one) => (
          <Typography
            key={one.says}
            sx={{
              fontSize: 12.5,
              color: (t) => (one.bars ? t.own.clayText : t.own.quiet),
            }}>{`${one.says.charAt(0).toUpperCase()}${one.says.slice(1)}.`}</Typography>
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button
          variant="contained"
          disabled={!changed || barred}
          onClick={() => onKeep(draft)}
          data-testid="keep-system">
          Keep this system
        </Button>
        <Button variant="outlined" disabled={!changed} onClick={() => setDraft(layout)}>
          As it was
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
        Takes of a driver that goes stay on disk and come back with it.
      </Typography>
    </Section>
  );
}
