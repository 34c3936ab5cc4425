/** Where a project stands: a place that ships, a vehicle drawn from a number, or none. */
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { client, settled } from '../api/client';
import type { PlaceChoice as Known } from '../api/types';
import { Choice, NumberField } from '../ui/Field';
import { Row } from '../ui/Panel';

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
  // A choice with numbers has one of them behind its key.
  const chosen = known.find((one) => (one.numbers ? place.startsWith(one.key) : one.key === place));
  if (!chosen) return null;
  const says = chosen.says.charAt(0).toUpperCase() + chosen.says.slice(1);
  return (
    <>
      <Row>
        <Choice
          label={label}
          value={chosen.key}
          options={known.map((one) => ({ value: one.key, text: one.name }))}
          onChange={(key) => onChange(known.find((one) => one.key === key)?.numbers ? `${key}1` : key)}
        />
        {chosen.numbers && (
          <NumberField
            label="Number"
            unit=""
            value={Number(place.slice(chosen.key.length))}
            step={1}
            min={0}
            max={chosen.numbers - 1}
            digits={0}
            onCommit={(value) => onChange(`${chosen.key}${Math.round(value)}`)}
          />
        )}
      </Row>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {`${says}.`}
      </Typography>
    </>
  );
}
