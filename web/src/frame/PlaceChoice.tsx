/** Where a project stands: a place that ships, a vehicle drawn from a number, or none. */
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../api/client';
import type { PlaceChoice as Known } from '../api/types';
import { Choice, NumberField } from '../ui/Field';
import { Row } from '../ui/Panel';

const DRAWN = 'drawn-';

interface Props {
  label: string;
  /** The key of the place, empty for none. */ place: string;
  onChange: (place: string) => void;
}

export function PlaceChoice({ label, place, onChange }: Props) {
  const { data: known = [] } = useQuery({
    queryKey: ['places'],
    queryFn: () => settled<Known[]>(client.GET('/api/places')),
  });
  const drawn = place.startsWith(DRAWN);
  const says = drawn
    ? 'a vehicle that nobody has seen before, another one for each number'
    : (known.find((one) => one.key === place)?.says ?? 'nothing is simulated: sound comes from files or a sound card');
  if (!known.length) return null;
  return (
    <>
      <Row>
        <Choice
          label={label}
          value={drawn ? DRAWN : place}
          options={[
            ...known.map((one) => ({ value: one.key, text: one.name })),
            { value: DRAWN, text: 'Vehicle drawn from a number' },
            { value: '', text: 'None: files or a sound card' },
          ]}
          onChange={(key) => onChange(key === DRAWN ? `${DRAWN}1` : key)}
        />
        {drawn && (
          <NumberField
            label="Number"
            unit=""
            value={Number(place.slice(DRAWN.length))}
            step={1}
            min={0}
            max={999_999}
            digits={0}
            onCommit={(value) => onChange(`${DRAWN}${Math.round(value)}`)}
          />
        )}
      </Row>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {says.charAt(0).toUpperCase() + says.slice(1)}.
      </Typography>
    </>
  );
}
