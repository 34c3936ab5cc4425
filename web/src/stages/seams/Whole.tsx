/** The panel of the whole in Seams: what an alignment may change, and what is proposed. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { client, settled } from '../../api/client';
import type { Allowed, Fill, Scope } from '../../api/types';
import { hasSides } from '../../state/system';
import { usePick } from '../../state/window';
import { Choice } from '../../ui/Field';
import { KeyLine, PanelTitle, Row, Section, Trouble } from '../../ui/Panel';
import { recordForStage } from '../common/doing';
import type { StageProps } from '../props';
import { Distances } from './Distances';
import { Latency } from './Latency';
import { OneProposal } from './OneProposal';
import { Standing } from './Standing';
import { Searching } from '../common/Searching';
import { useProposals } from './useProposals';

const MAY: { what: keyof Allowed; text: string; title: string }[] = [
  { what: 'corners', text: 'Corners', title: 'Move corners within the range that makes sense' },
  { what: 'slopes', text: 'Slopes', title: 'Try other slopes' },
  { what: 'all_pass', text: 'All-pass', title: 'Try an all-pass on one side' },
];

const BOTH = 'both sides arrive together, every seam adds up, left and right agree in the bass';
const ONE = 'every seam adds up, with delays near what the arrivals say';

export function Whole({ work, selection }: StageProps) {
  const { project, slug, act, commit, draft, recording } = work;
  const { progress, propose, set } = usePick('progress', 'propose', 'set');
  const [scope, setScope] = useState<Scope>('whole');
  const [allowed, setAllowed] = useState<Allowed>({ corners: true, slopes: true, all_pass: true });
  const [tape, setTape] = useState(false);
  const [rested, setRested] = useState('');
  const { found, busy, refused, ask, stop } = useProposals(work, scope, allowed);
  const shown = found?.proposals.find((one) => one.kind === rested);
  const first = found?.proposals[0];
  useEffect(() => {
    if (!propose) return;
    set({ propose: false });
    ask();
  }, [propose, set, ask]);
  useEffect(() => {
    set({ offered: first ? { title: first.title, edits: first.edits } : null });
    return () => set({ offered: null });
  }, [first, set]);
  useEffect(() => {
    set({ searching: busy });
    return () => set({ searching: false });
  }, [busy, set]);
  const beside = project.layout.drivers.some((one) => one.group === 'rear' || one.group === 'centre');
  const fill = () =>
    void act(async () => {
      const found = await settled<Fill>(client.GET('/api/projects/{slug}/fill', { params: { path: { slug } } }));
      if (!found.edits.length) return undefined;
      return settled(
        client.POST('/api/projects/{slug}/edits', {
          params: { path: { slug } },
          body: { edits: found.edits, summary: found.says.join('; ') },
        }),
      );
    });
  const byArrival = () =>
    void act(() => settled(client.POST('/api/projects/{slug}/align', { params: { path: { slug } } })));
  return (
    <>
      <PanelTitle
        title="Align everything"
        aside={found && found.places.length > 1 ? `${found.places.length} places` : ''}
      />
      <Row>
        <Box sx={{ flex: 1 }}>
          <Choice
            label="Align"
            value={scope}
            options={[
              { value: 'whole', text: 'All' },
              { value: 'left', text: 'Left side' },
              { value: 'right', text: 'Right side' },
            ]}
            onChange={setScope}
          />
        </Box>
        {MAY.map(({ what, text, title }) => (
          <ToggleButton
            key={what}
            value={what}
            size="small"
            selected={allowed[what] && (scope === 'whole' || what === 'all_pass')}
            disabled={scope !== 'whole' && what !== 'all_pass'}
            title={title}
            sx={{ py: 0.25, px: 0.75, fontSize: 12, textTransform: 'none' }}
            onChange={() => setAllowed({ ...allowed, [what]: !allowed[what] })}>
            {text}
          </ToggleButton>
        ))}
      </Row>
      {busy ? (
        <Searching slug={slug} onStop={stop} />
      ) : (
        <Button variant={found ? 'outlined' : 'contained'} disabled={recording} onClick={ask}>
          {found ? 'Propose again' : 'Propose an alignment'}
        </Button>
      )}
      <Trouble says={refused} onClose={stop} />
      {!found && !busy && !tape && !refused && (
        <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
          {`A search over the delays and polarities of all channels at once: ${hasSides(project) ? BOTH : ONE}. ` +
            'It proposes; nothing changes until you take a proposal.'}
        </Typography>
      )}
      {found && !tape && (
        <>
          <Standing project={project} figures={found.before} after={shown?.figures} />
          <Section title="Proposals" aside="rest on one to see it">
            <Box sx={{ display: 'grid', gap: 0.75 }}>
              {found.proposals.map((one, n) => (
                <OneProposal
                  key={one.kind}
                  first={n === 0}
                  project={project}
                  proposal={one}
                  onShow={(shown) => {
                    setRested(shown ? one.kind : '');
                    draft(shown ? one.edits : []);
                  }}
                  onUse={() => void commit(one.edits, `Aligned: ${one.title.toLowerCase()}`)}
                />
              ))}
              {!found.proposals.length && (
                <Typography sx={{ fontSize: 12.5 }} data-testid="no-proposal">
                  What stands is as good as anything that was found.
                </Typography>
              )}
            </Box>
          </Section>
          {[...found.doubts, ...found.lacking].map((says) => (
            <Typography key={says} sx={{ fontSize: 12 }} color="text.secondary">
              {`${says}.`}
            </Typography>
          ))}
          <Typography sx={{ fontSize: 12 }} color="text.secondary">
            Reckoned with every channel fitted as Voice would fit it.
          </Typography>
        </>
      )}
      <Row>
        <Button
          variant={found ? 'contained' : 'outlined'}
          sx={{ flex: 1 }}
          disabled={recording}
          onClick={() => recordForStage(work, selection)}>
          {project.link.unsent.length ? 'Send and record all' : 'Record all'}
        </Button>
        <Button variant="outlined" onClick={byArrival}>
          Set delays by arrival
        </Button>
      </Row>
      {beside && (
        <Button
          variant="outlined"
          title="The rear some 10 ms after the front, the centre with it (common practice), where they change it least."
          onClick={fill}>
          Set rear and centre by the front
        </Button>
      )}
      <Button size="small" aria-expanded={tape} sx={{ py: 0, alignSelf: 'flex-start' }} onClick={() => setTape(!tape)}>
        {tape ? 'Hide the distances' : 'Distances by tape …'}
      </Button>
      {tape && <Distances work={work} />}
      <Latency work={work} />
      {progress?.message && <Typography sx={{ fontSize: 12.5 }}>{progress.message}</Typography>}
      <KeyLine>N first seam · B before and after · Space record</KeyLine>
    </>
  );
}
