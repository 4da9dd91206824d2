import { Send as Plane } from 'lucide-react';
import { api } from '../../data/api.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** The paper as a file, by the system’s own sheet for sharing; where it has none, a mail beside the file. */
export function Send({ path, name, subject }: { path: string; name: string; subject: string }) {
  const { busy, trouble, run } = useAction();
  const send = () =>
    run(async () => {
      const file = new File([await api.file(path)], name, { type: 'application/pdf' });
      if (navigator.canShare?.({ files: [file] })) {
        // Shut without a choice: nothing was sent, and nothing is wrong.
        await navigator.share({ files: [file], title: subject }).catch((e: Error) => {
          if (e.name !== 'AbortError') throw e;
        });
        return;
      }
      const url = URL.createObjectURL(file);
      press(url, name);
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
      press(`mailto:?subject=${encodeURIComponent(subject)}&body=${encodeURIComponent(`${name} is attached.`)}`);
    });
  return (
    <>
      <button type="button" className="btn btn-lg" disabled={busy} onClick={send}>
        <Plane size={19} aria-hidden /> Send
      </button>
      <Problem trouble={trouble} />
    </>
  );
}

function press(href: string, download?: string) {
  const a = document.createElement('a');
  a.href = href;
  if (download) a.download = download;
  a.click();
}
