/** What each seam loses as it stands, and as it would be; a row for two ways, left and right beside each other. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { Alignment, Project } from '../../api/types';
import { Section } from '../../ui/Panel';
import { plain } from '../../ui/format';
import { titleOf } from './seam';

type Figures = Alignment['seams'][number];

/** "0.3", with its least and most where several places were heard. */
const spoken = ({ mean }: Figures): string => {
  const spread = mean.most - mean.least > 0.05 ? ` (${plain(mean.least)}–${plain(mean.most)})` : '';
  return `${plain(mean.value)}${spread}`;
};

interface Props {
  project: Project;
  figures: Alignment;
  after?: Alignment;
}

export function Standing({ project, figures, after }: Props) {
  const { own } = useTheme();
  const of = (id: string) => project.seams.find((one) => one.id === id)!;
  const line = (one: Figures): string => {
    const then = after?.seams.find((each) => each.seam === one.seam);
    return then ? `${plain(one.mean.value)} → ${spoken(then)}` : spoken(one);
  };
  const names = [...new Set(figures.seams.map((one) => of(one.seam).name))];
  return (
    <Section title="As it stands" aside="mean loss in dB, left · right">
      <Box component="dl" sx={{ m: 0, fontSize: 12.5, lineHeight: '19px' }}>
        {names.map((name) => {
          const mine = figures.seams.filter((one) => of(one.seam).name === name);
          const apart = mine.filter((one) => of(one.seam).side !== 'both');
          const shown = apart.length ? apart : mine;
          return (
            <Box key={name} sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <Box component="dt" sx={{ color: 'text.secondary' }}>
                {titleOf(project, of(shown[0].seam)).replace(/ [LR]\b/g, '')}
              </Box>
              <Box component="dd" sx={{ m: 0, color: after ? own.good : own.text }}>
                {shown.map(line).join(' · ')}
              </Box>
            </Box>
          );
        })}
      </Box>
    </Section>
  );
}
