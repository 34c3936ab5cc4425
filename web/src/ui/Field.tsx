/** Fields of the side panel: a label above, figures that step with the arrow keys, choices. */
import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';

const sx = {
  bgcolor: (t: { own: { plot: string } }) => t.own.plot,
  border: 1,
  borderColor: 'divider',
  borderRadius: 1,
  px: 1,
  fontSize: 13,
  height: 30,
  width: '100%',
} as const;

interface NumberProps {
  label: string;
  value: number;
  digits?: number;
  unit?: string;
  step: number;
  coarse?: number;
  min?: number;
  max?: number;
  factor?: boolean;
  sign?: boolean;
  hideLabel?: boolean;
  /** What stands over it in the place of its whole label, where room is short. */
  caption?: string;
  /** What stands for zero, where zero means that nothing is known. */
  zero?: string;
  onCommit: (value: number) => void;
}

/** A figure: type and Enter, or step with the arrows (Shift: coarse). `factor` steps by ratio. */
export function NumberField({
  label,
  value,
  digits = 1,
  unit = '',
  step,
  coarse,
  min = -Infinity,
  max = Infinity,
  factor,
  sign,
  hideLabel,
  caption,
  zero,
  onCommit,
}: NumberProps) {
  const shown = `${sign && value > 0 ? '+' : ''}${value.toFixed(digits)}`.replace('-', '−');
  const [text, setText] = useState<string | null>(null);
  const [bad, setBad] = useState(false);
  const dropped = useRef(false);
  const commit = (raw: string) => {
    const typed = Number(
      /^\s*([+-]?(\d+\.?\d*|\.\d+))\s*[a-z]*\s*$/i.exec(raw.replace('−', '-').replace(',', '.'))?.[1] ?? NaN,
    );
    const fine = Number.isFinite(typed) && typed >= min && typed <= max;
    setBad(!fine);
    if (!fine) return;
    setText(null);
    if (Math.abs(typed - Number(value.toFixed(digits))) > 1e-9) onCommit(typed);
  };
  const range = `${min > -Infinity ? min : ''} to ${max < Infinity ? max : ''}`;
  return (
    <Box component="label" sx={{ display: 'block', minWidth: 0, flex: 1 }}>
      {!hideLabel && (
        <Typography variant="caption" color="text.secondary" noWrap component="div">
          {caption ?? label}
        </Typography>
      )}
      <InputBase
        sx={{ ...sx, borderColor: bad ? 'error.main' : 'divider' }}
        value={text ?? (zero && value === 0 ? zero : `${shown}${unit && ` ${unit}`}`)}
        error={bad}
        title={bad ? `A number from ${range} ${unit}` : undefined}
        inputProps={{ 'aria-label': `${label}${unit && `, ${unit}`}`, 'aria-invalid': bad, inputMode: 'decimal' }}
        onFocus={(event) => {
          setText(shown);
          const input = event.target;
          requestAnimationFrame(() => input.select());
        }}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (text !== null && !dropped.current) commit(text);
          dropped.current = false;
          setBad(false);
          setText(null);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit((event.target as HTMLInputElement).value);
          if (event.key === 'Escape') {
            dropped.current = true;
            setBad(false);
            (event.target as HTMLInputElement).blur();
          }
          if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return;
          event.preventDefault();
          const by = (event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? (coarse ?? step * 10) : step);
          const next = Math.min(max, Math.max(min, factor ? value * 2 ** by : value + by));
          setText(null);
          onCommit(Number(next.toFixed(digits + 1)));
        }}
      />
    </Box>
  );
}

interface ChoiceProps<T extends string | number> {
  label: string;
  value: T;
  options: { value: T; text: string }[];
  hideLabel?: boolean;
  onChange: (value: T) => void;
}

export function Choice<T extends string | number>({ label, value, options, hideLabel, onChange }: ChoiceProps<T>) {
  return (
    <Box sx={{ minWidth: 0, flex: 1 }}>
      {!hideLabel && (
        <Typography variant="caption" color="text.secondary" noWrap component="div">
          {label}
        </Typography>
      )}
      <Select
        value={value}
        displayEmpty
        input={
          <InputBase
            sx={{
              ...sx,
              pr: 0,
              '& .MuiSelect-select': { pr: '18px !important' },
              '& .MuiSelect-icon': { right: 0, fontSize: 18 },
            }}
          />
        }
        SelectDisplayProps={{ 'aria-label': label } as object}
        onChange={(event) => onChange(event.target.value as T)}
        MenuProps={{ transitionDuration: 0 }}>
        {options.map((option) => (
          <MenuItem key={option.value} value={option.value} dense>
            {option.text}
          </MenuItem>
        ))}
      </Select>
    </Box>
  );
}

interface WordProps {
  label: string;
  value: string;
  placeholder?: string;
  /** How many letters fit. */ most: number;
  onCommit: (value: string) => void;
}

/** Words of a person: kept on Enter and when the field is left. Its label is for those who do not see the field. */
export function WordField({ label, value, placeholder, most, onCommit }: WordProps) {
  return (
    <InputBase
      defaultValue={value}
      placeholder={placeholder}
      inputProps={{ 'aria-label': label, maxLength: most }}
      onBlur={(event) => onCommit(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') (event.target as HTMLInputElement).blur();
      }}
      sx={{ ...sx, fontSize: 12.5, height: 28 }}
    />
  );
}
