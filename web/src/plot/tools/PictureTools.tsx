/**
 * The tools of a plot that is drawn as SVG, over a canvas where it has one: a picture of what is in view, and its
 * figures.
 */
import { useTheme } from '@mui/material/styles';
import type { RefObject } from 'react';
import { pictureOf } from './drawn';
import { ToolsMenu } from './ToolsMenu';

interface Props {
  name: string;
  holder: RefObject<HTMLElement | null>;
  bottom?: number;
  legend?: { label?: string; colour: string; dash?: number[] }[];
  /** Rows of figures with this between them. */ table?: (between: string) => string;
}

export function PictureTools({ name, holder, bottom = 30, legend = [], table }: Props) {
  const { own } = useTheme();
  const svg = () => pictureOf(holder.current!, name, legend, { ground: own.ground, text: own.text, quiet: own.quiet });
  return <ToolsMenu name={name} title="Picture, table" bottom={bottom} svg={svg} table={table} />;
}
