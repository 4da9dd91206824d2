import { BayCommand, type BayView, type BenchTestResult } from '@just-balance/contract';
import { outcomeLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { valuesInWords } from '@just-balance/core/job';
import { isSaid, joined } from '@just-balance/core/units';
import { useState } from 'react';
import { Combobox } from '../../ui/Combobox.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { Bank } from './Faults.tsx';
import { type Post } from './Press.tsx';

export function BenchTests({ view, post, busy }: { view: BayView; post: Post; busy: boolean }) {
  const [done, setDone] = useState<BenchTestResult | null>(null);
  const form = useTypedForm<{ test: string; bank: string }, BayCommand>({
    dto: BayCommand,
    defaults: { test: '', bank: '1' },
    body: (t) => ({
      command: 'test',
      test: t.test,
      ...(view.vehicle.banks === 2 ? { faultBank: t.bank === '2' ? 2 : 1 } : {}),
    }),
    fields: { faultBank: 'bank' },
    send: async (body) => {
      setDone(null);
      const { result } = await post(body);
      if (result && !Array.isArray(result)) setDone(result);
    },
  });
  return (
    <form className="flex flex-wrap items-end gap-3" onSubmit={form.submit} noValidate>
      <Combobox
        className="min-w-64"
        label="Bench test"
        placeholder="Any word of it"
        all={view.tests}
        textOf={(t) => TEST_BY_ID.get(t)?.label ?? t}
        keyOf={(t) => t}
        chosen={form.watch('test') || null}
        choose={(t) => form.setValue('test', t ?? '')}
      />
      {view.vehicle.banks === 2 && <Bank register={form.register('bank')} />}
      <button type="submit" className="btn" disabled={busy || form.busy || form.watch('test') === ''}>
        Perform it
      </button>
      <Problem trouble={form.trouble} text={form.rest} />
      <p role="status" className="m-0 min-h-12 content-center">
        {done && (
          <>
            <strong>{TEST_BY_ID.get(done.test)?.label ?? done.test}:</strong>{' '}
            <Say
              text={joined(
                [
                  done.outcome ? outcomeLabel(done.test, done.outcome) : '',
                  ...valuesInWords(done.test, done.values ?? {}),
                ].filter(isSaid),
                ', ',
              )}
            />
            <span className="text-soft"> (wrong {Math.round(done.chanceOfWrong * 100)} times in 100)</span>
          </>
        )}
      </p>
    </form>
  );
}
