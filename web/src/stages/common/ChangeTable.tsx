import Box from '@mui/material/Box';
import type { Change } from '../../api/types';

export function ChangeTable({ changes }: { changes: Change[] }) {
  return (
    <Box
      component="table"
      sx={{
        width: '100%',
        borderCollapse: 'collapse',
        fontSize: 12.5,
        '& td, & th': { textAlign: 'left', py: 0.25, pr: 1, verticalAlign: 'top' },
      }}>
      <thead>
        <tr>
          <th>Channel</th>
          <th>What</th>
          <th>Processor</th>
          <th>Tune</th>
        </tr>
      </thead>
      <tbody>
        {changes.map((one, n) => (
          <tr key={n}>
            <td>{one.channel}</td>
            <td>{one.what}</td>
            <td>{one.before}</td>
            <td>{one.after}</td>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
