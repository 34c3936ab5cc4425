/** Projects, a new one, and the system and the processor of the present one. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { client, settled } from '../api/client';
import type { Demo, Layout, Model, Projects } from '../api/types';
import { useWindow } from '../state/window';
import { Section } from '../ui/Panel';
import type { Work } from '../state/project';
import { Copies } from './Copies';
import { PlaceChoice } from './PlaceChoice';
import { NewProject } from './NewProject';
import { Processor } from './Processor';
import { OpenFile } from './ProjectFile';
import { SystemEditor } from './SystemEditor';

export function System({ work, onClose }: { work: Work; onClose: () => void }) {
  const { project, slug, act } = work;
  const navigate = useNavigate();
  const set = useWindow((state) => state.set);
  const { data: known } = useQuery({
    queryKey: ['projects'],
    queryFn: () => settled<Projects>(client.GET('/api/projects')),
    staleTime: 0,
  });
  const { data: models } = useQuery({
    queryKey: ['models'],
    queryFn: () => settled<Model[]>(client.GET('/api/models')),
    staleTime: 0,
  });
  const { data: demos } = useQuery({
    queryKey: ['demos'],
    queryFn: () => settled<Demo[]>(client.GET('/api/demos')),
    staleTime: 0,
  });
  const move = (place: string) =>
    void act(() => settled(client.PUT('/api/projects/{slug}/place', { params: { path: { slug } }, body: { place } })));
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
  const change = (layout: Layout) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/layout', { params: { path: { slug } }, body: layout })),
    ).then((done) => {
      if (done) set({ selection: '', seam: '' });
    });
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="lg" aria-labelledby="system-title">
      <DialogTitle id="system-title">Projects, system and processor</DialogTitle>
      {known && models && (
        <DialogContent sx={{ display: 'grid', gridTemplateColumns: '320px 1fr', gap: 3 }}>
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
            <Section title="Projects" aside={<OpenFile onOpened={open} />}>
              <Box sx={{ maxHeight: 190, overflowY: 'auto' }}>
                {known.projects.map((one) => (
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
                {demos
                  ?.filter((one) => one.state !== 'made')
                  .map((one) => (
                    <Button
                      key={one.key}
                      fullWidth
                      onClick={() => open(one.slug)}
                      data-testid={`demo-${one.key}`}
                      sx={{ justifyContent: 'space-between', fontWeight: 400 }}>
                      <span>{one.project}</span>
                      <span>{`${one.drivers} drivers · a demonstration, made when opened`}</span>
                    </Button>
                  ))}
              </Box>
            </Section>
            <NewProject known={known} models={models} onBegun={open} />
            <Copies work={work} />
          </Box>
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
            <SystemEditor
              key={JSON.stringify(project.layout)}
              layout={project.layout}
              title={project.name}
              outputs={project.link.limits.outputs}
              known={known}
              onKeep={change}
            />
            <Processor work={work} models={models} />
            <Section title={`Place of ${project.name}`} aside="Takes made before stay, and show the place before">
              <PlaceChoice label="Where it stands" place={project.place.key} onChange={move} />
            </Section>
          </Box>
        </DialogContent>
      )}
    </Dialog>
  );
}
