import type { PhotoView } from '@just-balance/contract';
import { useEffect, useState } from 'react';
import { useWaiting } from '../data/queue.ts';

/** A picture of a job; one that waits on this device is shown from here. */
export function JobPhoto({
  jobId,
  photo,
  small,
  className = '',
}: {
  jobId: string;
  photo: Pick<PhotoView, 'id' | 'label'>;
  small?: boolean;
  className?: string;
}) {
  const waiting = useWaiting().find((w) => w.path.startsWith(`/jobs/${jobId}/photos/${photo.id}?`));
  const body = waiting?.body;
  const [own, setOwn] = useState<string | null>(null);
  useEffect(() => {
    if (!(body instanceof ArrayBuffer)) return;
    const reader = new FileReader();
    reader.onload = () => setOwn(String(reader.result));
    reader.readAsDataURL(new Blob([body], { type: 'image/jpeg' }));
  }, [body]);
  const src = body ? own : `/api/jobs/${jobId}/photos/${photo.id}${small ? '?small=1' : ''}`;
  if (!src) return null;
  return (
    <img src={src} alt={photo.label || 'Picture of this job'} className={className} loading="lazy" decoding="async" />
  );
}
