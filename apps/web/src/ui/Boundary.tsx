import { Component, type ReactNode } from 'react';

interface Props {
  children: ReactNode;
  /** What stands there instead, told what went wrong. */
  fallback: (error: Error, again: () => void) => ReactNode;
}

/** What breaks inside stays inside: the rest of the page goes on. */
export class Boundary extends Component<Props, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override render() {
    const { error } = this.state;
    return error ? this.props.fallback(error, () => this.setState({ error: null })) : this.props.children;
  }
}
