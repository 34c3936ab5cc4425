/** Where a project is there and cannot be opened: why, and the other projects, that can. */
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link as To, useParams } from 'react-router';
import { client, settled } from '../api/client';
import type { Projects } from '../api/types';

export default function Unread({ says }: { says: string }) {
  const { slug } = useParams();
  const { data } = useQuery({ queryKey: ['projects'], queryFn: () => settled<Projects>(client.GET('/api/projects')) });
  const others = data?.projects.filter((one) => one.slug !== slug) ?? [];
  return (
    <Box component="main" data-testid="unread" sx={{ maxWidth: 520, mx: 'auto', mt: '12vh', p: 3 }}>
      <Typography component="h1" sx={{ fontSize: 22, fontWeight: 600, mb: 1 }}>
        This project cannot be opened here
      </Typography>
      <Typography role="alert" sx={{ fontSize: 13.5, mb: 2 }}>
        {says}
      </Typography>
      {others.length > 0 && (
        <>
          <Typography component="h2" sx={{ fontSize: 14, fontWeight: 600, mb: 0.5 }}>
            The other projects
          </Typography>
          <Box component="ul" sx={{ m: 0, pl: 2.5, fontSize: 13.5 }}>
            {others.map((one) => (
              <li key={one.slug}>
                <Link component={To} to={`/${one.slug}/drivers`}>
                  {one.name}
                </Link>
              </li>
            ))}
          </Box>
        </>
      )}
    </Box>
  );
}
