'use client';

import { type ReactNode, useEffect, useRef } from 'react';
import type { OpenDocument } from '../client/document-worker';

interface Props {
  document: OpenDocument;
  page: number;
  /** Width on the screen, in pixels. */
  width: number;
  /** What is laid over it, in points of the page. */
  children?: ReactNode;
}

/** A page of a document as a picture, with what is laid over it. */
export function PagePicture({ document, page, width, children }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const size = document.pages[page - 1];
  const height = size ? (width * size.height) / size.width : width * 1.4;
  useEffect(() => {
    let current = true;
    const sharp = Math.min(2, window.devicePixelRatio || 1);
    void document.picture(page, width * sharp).then((bitmap) => {
      if (!current || !bitmap || !canvas.current) {
        bitmap?.close();
        return;
      }
      canvas.current.width = bitmap.width;
      canvas.current.height = bitmap.height;
      canvas.current.getContext('bitmaprenderer')?.transferFromImageBitmap(bitmap);
      canvas.current.dataset.drawn = String(page);
    });
    return () => {
      current = false;
    };
  }, [document, page, width]);
  return (
    <div className="relative border border-rule bg-white" style={{ width, height }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Page ${page} of ${document.name}`}
        className="absolute inset-0 size-full"
      />
      {size && (
        // biome-ignore lint/a11y/useSemanticElements: what is laid over a picture is drawn
        <svg
          className="absolute inset-0 size-full"
          viewBox={`0 0 ${size.width} ${size.height}`}
          role="group"
          aria-label="Tables on the page"
        >
          {children}
        </svg>
      )}
    </div>
  );
}
