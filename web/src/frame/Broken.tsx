/** What stands where the page itself has failed: a sentence and a way on, instead of nothing. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { Component, type ErrorInfo, type ReactNode } from 'react';
import { client } from '../api/client';

interface Props {
  /** What is shown; where it changes, what failed is tried anew. */
  shows: string;
  children: ReactNode;
}

export class Broken extends Component<Props, { error: Error | null }> {
  state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  componentDidCatch(error: Error, info: ErrorInfo) {
    const where = `${error.stack ?? error.message}\n${info.componentStack ?? ''}`.slice(0, 8000);
    void client.POST('/api/diagnostics/page', { body: { says: where } }).catch(() => undefined);
  }

  componentDidUpdate(before: Props) {
    if (before.shows !== this.props.shows && this.state.error) this.setState({ error: null });
  }

  render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Box role="alert" data-testid="broken" sx={{ p: 4, maxWidth: 640 }}>
        <Typography component="h2" sx={{ fontSize: 18, fontWeight: 600, mb: 1 }}>
          This view could not be drawn
        </Typography>
        <Typography sx={{ mb: 1 }}>
          Nothing is lost: what was shown as saved is on disk. Go to another stage, or load the page anew. The log in
          the data folder holds what went wrong.
        </Typography>
        <Typography sx={{ fontSize: 12, mb: 2 }} color="text.secondary">
          {error.message}
        </Typography>
        <Button variant="contained" onClick={() => window.location.reload()}>
          Load the page anew
        </Button>
      </Box>
    );
  }
}
