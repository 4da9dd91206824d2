import { expect, jest, test } from '@jest/globals';
import { act, render, screen } from '@testing-library/react';
import { Component, type ReactNode } from 'react';
import { ahead, bringTheRest, later } from '../src/ui/later.tsx';

class Caught extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false };
  static getDerivedStateFromError = () => ({ failed: true });
  override render() {
    return this.state.failed ? (
      <button type="button" onClick={() => this.setState({ failed: false })}>
        Again
      </button>
    ) : (
      this.props.children
    );
  }
}

test('what comes later stands in by its words, then draws with what it is given', async () => {
  const Name = later<{ of: string }>(async () => (p) => <p>{p.of}</p>, <p>Opening</p>);
  render(<Name of="Bay 3" />);
  expect(screen.getByText('Opening')).toBeTruthy();
  expect(await screen.findByText('Bay 3')).toBeTruthy();
});

test('code that could not come is asked for again when it is drawn again', async () => {
  const quiet = jest.spyOn(console, 'error').mockImplementation(() => {});
  let asked = 0;
  const Name = later(async () => {
    asked++;
    if (asked === 1) throw new Error('no server');
    return () => <p>here</p>;
  });
  render(
    <Caught>
      <Name />
    </Caught>,
  );
  const again = await screen.findByRole('button', { name: 'Again' });
  act(() => again.click());
  expect(await screen.findByText('here')).toBeTruthy();
  expect(asked).toBe(2);
  quiet.mockRestore();
});

test('an idle page brings the rest one after another, past what does not come, until it is stopped', async () => {
  jest.useFakeTimers();
  const brought: string[] = [];
  let arrived = () => {};
  ahead(async () => void brought.push('first'));
  ahead(async () => {
    brought.push('fails');
    throw new Error('gone');
  });
  ahead(() => {
    brought.push('slow');
    return new Promise<void>((r) => {
      arrived = r;
    });
  });
  ahead(async () => void brought.push('after the stop'));
  const stop = bringTheRest();
  await jest.advanceTimersByTimeAsync(60_000);
  expect(brought).toEqual(['first', 'fails', 'slow']);
  stop();
  arrived();
  await jest.advanceTimersByTimeAsync(60_000);
  expect(brought).toEqual(['first', 'fails', 'slow']);
  jest.useRealTimers();
});
