import { LONG_EDGE, QUALITY } from './bounds.ts';

/** A picture as it came from the camera or a file: turned upright, reduced, as JPEG. Off the page's thread. */
self.onmessage = async (e: MessageEvent<{ id: number; file: Blob }>) => {
  const { id, file } = e.data;
  try {
    const source = await createImageBitmap(file, { imageOrientation: 'from-image' });
    const scale = Math.min(1, LONG_EDGE / Math.max(source.width, source.height));
    const width = Math.max(1, Math.round(source.width * scale));
    const height = Math.max(1, Math.round(source.height * scale));
    const canvas = new OffscreenCanvas(width, height);
    const context = canvas.getContext('2d')!;
    context.imageSmoothingQuality = 'high';
    context.drawImage(source, 0, 0, width, height);
    source.close();
    const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality: QUALITY });
    const bytes = await blob.arrayBuffer();
    self.postMessage({ id, ok: true, bytes, width, height }, { transfer: [bytes] });
  } catch {
    self.postMessage({ id, ok: false });
  }
};
