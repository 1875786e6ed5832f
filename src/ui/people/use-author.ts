'use client';

import { useEffect, useState } from 'react';
import { authorName } from '../client/author';

/**
 * Who says it, for a form: the name that this browser keeps stands in the field as soon as the form is drawn, so that nobody signs
 * by a name that they have not seen. What is in the field is what counts.
 */
export function useAuthor(): [author: string, setAuthor: (name: string) => void] {
  const [author, setAuthor] = useState('');
  // The browser's storage is not there when the server draws the page.
  useEffect(() => setAuthor(authorName()), []);
  return [author, setAuthor];
}
