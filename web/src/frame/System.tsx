/** Projects, a new one from a layout, and the system of the present one: its drivers and their outputs. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { client, Refusal, settled } from '../api/client';
import type { Layout, Projects } from '../api/types';
import { useWindow } from '../state/window';
import { Choice } from '../ui/Field';
import { Row, Section } from '../ui/Panel';
import type { Work } from '../state/project';
import { SystemEditor } from './SystemEditor';

export function System({ work, onClose }: { work: Work; onClose: () => void }) {
  const { project, slug, act } = work;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const set = useWindow((state) => state.set);
  const { data } = useQuery({
    queryKey: ['projects'],
    queryFn: () => settled<Projects>(client.GET('/api/projects')),
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
        {data && (
          <SystemEditor
            key={JSON.stringify(project.layout)}
            layout={project.layout}
            title={project.name}
            outputs={project.link.limits.outputs}
            known={data}
            onKeep={change}
          />
        )}
      </DialogContent>
    </Dialog>
  );
}
