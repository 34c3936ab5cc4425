/** The customer's controls: what may be turned, and the phones that may turn it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, Refusal, settled } from '../../api/client';
import type { Customer as State } from '../../api/types';
import type { Work } from '../../state/project';
import { useWindow } from '../../state/window';
import { NumberField, WordField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import { Tick } from '../../ui/Tick';
import { plain, signed } from '../../ui/format';

/** How often it is asked who is in, while phones are listened for. */
const ASK_MS = 1500;
const FIGURES = [
  [
    { name: 'bass_db', label: 'Bass up and down', unit: 'dB', step: 1, min: 0, max: 12 },
    { name: 'volume_db', label: 'Volume down by', unit: 'dB', step: 5, min: 0, max: 80 },
  ],
  [
    { name: 'lift_db', label: 'Lift of the lowest', unit: 'dB', step: 1, min: 0, max: 12 },
    { name: 'lift_hz', label: 'Lift below', unit: 'Hz', step: 5, min: 20, max: 200 },
  ],
] as const;

export function Customer({ work }: { work: Work }) {
  const { slug, project } = work;
  const queries = useQueryClient();
  const set = useWindow((state) => state.set);
  const key = ['customer', slug];
  const path = { params: { path: { slug } } };
  const { data } = useQuery({
    queryKey: [...key, project.version],
    placeholderData: (before?: State) => before,
    refetchInterval: (query) => (query.state.data?.address ? ASK_MS : false),
    queryFn: () => settled<State>(client.GET('/api/projects/{slug}/customer', path)),
  });
  const act = async (call: () => Promise<unknown>) => {
    try {
      await call();
      set({ error: null });
    } catch (error) {
      set({ error: error instanceof Refusal ? error.message : String(error) });
    }
    await queries.invalidateQueries({ queryKey: key });
  };
  if (!data) return null;
  const { allowed } = data;
  const allow = (values: Partial<typeof allowed>) =>
    void act(() =>
      settled(client.PUT('/api/projects/{slug}/customer/controls', { ...path, body: { ...allowed, ...values } })),
    );
  return (
    <Section title="The customer's controls" aside={data.said ? 'headroom kept' : 'not said yet'}>
      {FIGURES.map((row) => (
        <Row key={row[0].name}>
          {row.map(({ name, ...figure }) => (
            <NumberField
              key={name}
              {...figure}
              value={allowed[name]}
              digits={0}
              onCommit={(value) => allow({ [name]: value })}
            />
          ))}
        </Row>
      ))}
      <Tick label="Slots may be loaded" on={allowed.slots} onTurn={(slots) => allow({ slots })} />
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {`Now: volume ${signed(data.turned.volume_db)} dB, bass ${signed(data.turned.bass_db)} dB, lift ` +
          `${plain(data.turned.lift_db)} dB. ` +
          (data.said
            ? 'Warnings reckon with all of it turned up.'
            : 'Set one, and warnings reckon with all of it turned up.')}
      </Typography>
      {data.address ? <Listening state={data} slug={slug} act={act} /> : <Silent state={data} slug={slug} act={act} />}
    </Section>
  );
}

interface Part {
  state: State;
  slug: string;
  act: (call: () => Promise<unknown>) => Promise<void>;
}

function Silent({ state, slug, act }: Part) {
  const [host, setHost] = useState(state.addresses[0] ?? '127.0.0.1');
  const [port, setPort] = useState(8650);
  const path = { params: { path: { slug } } };
  return (
    <Box sx={{ mt: 0.5 }}>
      <Row>
        <Box sx={{ flex: 1 }}>
          <Typography variant="caption" color="text.secondary">
            Address of this machine
          </Typography>
          <WordField label="Address for phones" value={host} most={60} onCommit={setHost} />
        </Box>
        <NumberField label="Port" unit="" value={port} step={1} min={0} max={65535} digits={0} onCommit={setPort} />
      </Row>
      <Button
        size="small"
        variant="outlined"
        sx={{ mt: 0.5 }}
        onClick={() =>
          void act(() =>
            settled(client.POST('/api/projects/{slug}/customer/phones', { ...path, body: { host, port } })),
          )
        }>
        Let a phone in
      </Button>
      <Typography sx={{ fontSize: 12, mt: 0.5 }} color="text.secondary">
        A page for a phone in the same network, which can do this and nothing else. It is off until you ask for it.
      </Typography>
    </Box>
  );
}

function Listening({ state, slug, act }: Part) {
  const path = { params: { path: { slug } } };
  const { code } = state;
  const close = (
    <Button
      size="small"
      variant="outlined"
      sx={{ mt: 0.5 }}
      onClick={() => void act(() => settled(client.DELETE('/api/projects/{slug}/customer/phones', path)))}>
      Let nobody in any more
    </Button>
  );
  if (state.project !== slug) {
    return (
      <Box sx={{ mt: 0.5 }} data-testid="phones">
        <Typography sx={{ fontSize: 12.5 }}>Phones are let in to another project: {state.project}.</Typography>
        {close}
      </Box>
    );
  }
  return (
    <Box sx={{ mt: 0.5 }} data-testid="phones">
      {code ? (
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
          <Box
            component="img"
            alt={`The link ${code.link} to be pointed at`}
            src={code.picture}
            sx={{ width: 116, height: 116, borderRadius: 1 }}
          />
          <Box sx={{ minWidth: 0 }}>
            <Typography sx={{ fontSize: 12 }} color="text.secondary">
              Point the phone at it, or open
            </Typography>
            <Box sx={{ fontSize: 12.5, overflowWrap: 'anywhere' }}>{state.address}</Box>
            <Box data-testid="phone-code" sx={{ fontSize: 20, fontWeight: 600, letterSpacing: '0.08em' }}>
              {code.code}
            </Box>
            <Typography sx={{ fontSize: 12 }} color="text.secondary">
              {`one phone, ${Math.max(1, Math.ceil(code.seconds / 60))} min left`}
            </Typography>
          </Box>
        </Box>
      ) : (
        <Button
          size="small"
          variant="outlined"
          onClick={() => void act(() => settled(client.POST('/api/projects/{slug}/customer/code', path)))}>
          A code for another phone
        </Button>
      )}
      {state.phones.map((one) => (
        <Box key={one.id} sx={{ display: 'flex', alignItems: 'center', fontSize: 13 }}>
          <Box sx={{ flex: 1 }}>{one.name}</Box>
          <Button
            size="small"
            aria-label={`Send ${one.name} away`}
            onClick={() =>
              void act(() =>
                settled(
                  client.DELETE('/api/projects/{slug}/customer/phones/{phone_id}', {
                    params: { path: { slug, phone_id: one.id } },
                  }),
                ),
              )
            }>
            Send away
          </Button>
        </Box>
      ))}
      {close}
    </Box>
  );
}
