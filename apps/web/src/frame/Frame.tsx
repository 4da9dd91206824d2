import { WRITES } from '@just-balance/contract';
import { Moon, Sun } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../data/api.ts';
import { leaveAccount, useAccount, useMay, useSession } from '../data/session.tsx';
import { Dropdown } from '../ui/Dropdown.tsx';
import { IconButton } from '../ui/IconButton.tsx';
import { Plate } from '../ui/Plate.tsx';
import { usePreferences } from '../ui/preferences.tsx';
import { playTone } from '../ui/tone.ts';
import { ClockOff } from './ClockOff.tsx';
import { FindJob } from './FindJob.tsx';
import { Logo } from './Logo.tsx';
import { useArrival } from './useArrival.ts';
import { WaitingBar } from './WaitingBar.tsx';

/** Top bar, left column, main: the frame of every screen behind the sign-in. */
export function Frame({
  title,
  plate,
  subtitle,
  chips,
  side,
  children,
  docked,
  here,
}: {
  title: string;
  /** Of the car that it is about. */
  plate?: string | undefined;
  subtitle: string;
  chips?: ReactNode;
  side: ReactNode;
  children: ReactNode;
  docked?: ReactNode;
  /** Which part of the thing named by the title this is. */
  here?: string;
}) {
  const main = useArrival([here, title].filter(Boolean).join(', '));
  return (
    <div className="min-h-screen bg-bench text-ink">
      <a href="#main" className="skip btn">
        Skip to the work
      </a>
      <header className="navbar sticky top-0 z-20 min-h-14 gap-x-2 gap-y-1 border-b border-rule bg-sheet px-4 py-1 sm:gap-x-3 md:flex-wrap no-print">
        <Link
          to="/"
          className="flex items-center gap-2 text-ink no-underline md:w-[184px]"
          aria-label="Just Balance, to the board"
        >
          <Logo />
          <span className="hidden text-[1.15rem] font-bold md:inline">Just Balance</span>
        </Link>
        <Plate of={plate} className="text-[1.05rem] max-sm:text-[0.9rem]" />
        <div className="mr-auto min-w-0 flex-1 md:min-w-32">
          <div className="truncate text-[1.1rem] leading-tight font-bold">{title}</div>
          <div className="hidden truncate text-[0.88rem] text-soft sm:block">{subtitle}</div>
        </div>
        {chips}
        <FindJob />
        <Toggles />
      </header>
      <div className="md:flex">
        {side}
        <main
          id="main"
          ref={main}
          tabIndex={-1}
          className="outline-none mx-auto min-w-0 flex-1 p-3 pb-28 md:px-[18px] md:py-[14px]"
        >
          <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
            <ClockOff />
            <WaitingBar />
            {children}
          </div>
        </main>
      </div>
      {docked}
    </div>
  );
}

function Toggles() {
  const { units, turnUnits, theme, setTheme, keys, setKeys, tones, setTones } = usePreferences();
  const account = useAccount();
  const { refresh } = useSession();
  const navigate = useNavigate();
  const signOut = async () => {
    leaveAccount();
    await api.send(WRITES.signOut, {}).catch(() => {});
    await refresh();
    navigate('/');
  };
  return (
    <div className="flex items-center gap-2">
      <button
        type="button"
        className="badge badge-lg badge-outline hidden cursor-pointer border-ink text-ink sm:inline-flex"
        data-units={units}
        onClick={turnUnits}
      >
        <span className={units === 'metric' ? 'font-bold' : 'text-soft'}>Metric</span>
        <span aria-hidden>·</span>
        <span className={units !== 'metric' ? 'font-bold' : 'text-soft'}>US</span>
        <span className="sr-only">: units, now {units === 'metric' ? 'metric' : 'US'}</span>
      </button>
      <IconButton
        name={theme === 'bench' ? 'Dark colours' : 'Light colours'}
        className="badge badge-lg badge-outline hidden cursor-pointer border-ink px-2 text-ink sm:inline-flex"
        press={() => setTheme(theme === 'bench' ? 'night' : 'bench')}
      >
        {theme === 'bench' ? <Moon size={17} aria-hidden /> : <Sun size={17} aria-hidden />}
      </IconButton>
      <Dropdown
        button="badge badge-lg badge-outline cursor-pointer list-none border-ink font-[650] text-ink"
        label={
          <>
            <span className="hidden sm:inline">{account.name}</span>
            <span className="sm:hidden">
              {account.name
                .split(' ')
                .map((w) => w[0])
                .join('')}
            </span>
          </>
        }
      >
        <div className="dropdown-content card z-30 mt-2 grid w-60 gap-2 p-3 shadow-lg">
          <div className="text-soft">
            {account.shop.name} · {account.role}
          </div>
          <button type="button" className="btn sm:hidden" onClick={turnUnits}>
            {units === 'metric' ? 'US units' : 'Metric units'}
          </button>
          <button
            type="button"
            className="btn sm:hidden"
            onClick={() => setTheme(theme === 'bench' ? 'night' : 'bench')}
          >
            {theme === 'bench' ? 'Dark' : 'Light'}
          </button>
          <label className="flex min-h-12 cursor-pointer items-center gap-3">
            <input type="checkbox" className="checkbox" checked={keys} onChange={(e) => setKeys(e.target.checked)} />
            Keys: 1–7 for stations, / to find a car
          </label>
          <label className="flex min-h-12 cursor-pointer items-center gap-3">
            <input
              type="checkbox"
              className="checkbox"
              checked={tones}
              onChange={(e) => {
                setTones(e.target.checked);
                if (e.target.checked) playTone('kept');
              }}
            />
            Tones while capturing
          </label>
          <Link to="/account" className="btn">
            Password and sessions
          </Link>
          <button type="button" className="btn" onClick={signOut}>
            Sign out
          </button>
        </div>
      </Dropdown>
    </div>
  );
}

/** The left column of the pages outside a job. */
export function HouseNav({
  current,
}: {
  current: 'board' | 'parts' | 'logbook' | 'learned' | 'practice' | 'calculators' | 'shop' | 'audit' | 'people' | null;
}) {
  const lead = useMay('lead');
  const items = [
    { id: 'board', to: '/', label: 'Today' },
    { id: 'parts', to: '/parts', label: 'Parts' },
    { id: 'logbook', to: '/logbook', label: 'Logbook' },
    { id: 'learned', to: '/learned', label: 'Learned here' },
    { id: 'practice', to: '/practice', label: 'Practice' },
    { id: 'calculators', to: '/calculators', label: 'Calculators' },
    { id: 'shop', to: '/shop', label: 'Shop' },
    { id: 'audit', to: '/audit', label: 'Who did what' },
    ...(lead ? [{ id: 'people', to: '/people', label: 'People' }] : []),
  ];
  return (
    <nav
      aria-label="House"
      className="overflow-x-auto border-rule p-2 no-print md:sticky md:top-[53px] md:h-[calc(100vh-53px)] md:w-[204px] md:shrink-0 md:self-start md:border-r md:p-[10px]"
    >
      <ul className="menu menu-horizontal w-full flex-nowrap gap-1 p-0 text-base md:menu-vertical">
        {items.map((i) => (
          <li key={i.id}>
            <Link
              to={i.to}
              aria-current={i.id === current ? 'page' : undefined}
              className={`min-h-12 content-center items-center font-[650] no-underline ${i.id === current ? 'menu-active' : 'text-soft'}`}
            >
              {i.label}
            </Link>
          </li>
        ))}
      </ul>
    </nav>
  );
}
