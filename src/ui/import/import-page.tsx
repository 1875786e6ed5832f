'use client';

export function ImportPage(_props: {
  known: { id: string; name: string; revision: number }[];
  part?: string;
}) {
  return null;
}
