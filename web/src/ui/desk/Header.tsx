import { Menu, Tooltip } from '@mantine/core';
import { spotlight } from '@mantine/spotlight';
import { IconArrowBackUp, IconArrowForwardUp, IconHistory, IconMoon, IconSun } from '@tabler/icons-react';
import { Fragment, memo } from 'react';
import { Link, NavLink, useParams, useSearchParams } from 'react-router';
import { redo, sentenceOf, setShot, undo } from '../../state/edits';
import { shotSlice, type SaveState } from '../../state/shot';
import { letAsideGo, tryAside } from '../../state/sync';
import { useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { viewSlice } from '../../state/view';
import { ROOMS } from './commands';
import { useTyping } from '../kit/Fields';
import { sayTrouble } from '../kit/say';
import { useOpened } from '../kit/useOpened';

const SAVE: Record<SaveState, [string, string]> = {
  saved: ['Saved', 'Every change is stored on the server.'],
  saving: ['Saving', 'On its way to the server; kept in this browser already.'],
  offline: [
    'Offline, kept here',
    'The server does not answer. Your changes are kept in this browser and sent when it is back.',
  ],
};

export const Header = memo(function Header({ room }: { room: string }) {
  const dispatch = useAppDispatch();
  const night = useAppSelector((s) => s.view.night);
  const { id = '' } = useParams();
  const [search] = useSearchParams();
  const name = useAppSelector((s) => s.shot.shot?.name ?? '');
  const run = (thunk: Thunk) => {
    try {
      dispatch(thunk);
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const { typed, box } = useTyping((text) => {
    if (text.trim() && text !== name) run(setShot('Rename shot', { name: text }));
    return true;
  });
  return (
    <header className="head">
      <Link className="mark" to="/">
        Oscillum
      </Link>
      <span className="crumb">
        <Link to="/">Library</Link> /
        <input aria-label="Name of the shot" value={typed ?? name} {...box} />
      </span>
      <nav className="rooms" aria-label="Rooms">
        {ROOMS.map(([path, title], i) => (
          <Fragment key={path}>
            {i > 0 && <i />}
            <NavLink
              to={`/shot/${id}/${path}?${search.toString()}`}
              className={path === room ? 'on' : ''}
              aria-current={path === room ? 'step' : undefined}
            >
              {title}
            </NavLink>
          </Fragment>
        ))}
      </nav>
      <span className="tools">
        <SaveMark />
        <AsideMenu run={run} />
        <UndoPresses run={run} />
        <Tooltip label={night ? 'Day desk (N)' : 'Night desk (N)'}>
          <button
            className="plain"
            aria-label="Night desk"
            aria-pressed={night}
            onClick={() => dispatch(viewSlice.actions.toggled('night'))}
          >
            {night ? <IconSun size={16} /> : <IconMoon size={16} />}
          </button>
        </Tooltip>
        <History run={run} />
        <button className="plain" onClick={() => spotlight.open()}>
          Find anything <kbd>Ctrl K</kbd>
        </button>
      </span>
    </header>
  );
});

/** Whether changes are stored. */
function SaveMark() {
  const dispatch = useAppDispatch();
  const save = useAppSelector((s) => s.shot.save);
  const notice = useAppSelector((s) => s.shot.notice);
  return (
    <>
      <Tooltip label={notice ?? SAVE[save][1]} multiline w={280}>
        <span className="save" data-save={save} role="status" tabIndex={0}>
          {SAVE[save][0]}
        </span>
      </Tooltip>
      {notice && (
        <button
          className="plain"
          style={{ color: 'var(--madder)' }}
          onClick={() => (
            sayTrouble(notice),
            dispatch(shotSlice.actions.saveChanged({ save, notice: null }))
          )}
        >
          Read why
        </button>
      )}
    </>
  );
}

/** Edits that could not be kept: none is lost, each is named with its reason. */
function AsideMenu({ run }: { run: (thunk: Thunk) => void }) {
  const aside = useAppSelector((s) => s.shot.aside);
  const opened = useOpened();
  if (aside.length === 0) return null;
  const again = () =>
    run((dispatch) => {
      const still = dispatch(tryAside());
      if (still.length > 0) sayTrouble(`Still does not fit: ${still.join(', ')}.`);
    });
  return (
    <Menu position="bottom-end" width={320} {...opened}>
      <Menu.Target>
        <button className="plain" style={{ color: 'var(--madder)' }}>
          {aside.length} set aside
        </button>
      </Menu.Target>
      <Menu.Dropdown mah={420} style={{ overflow: 'auto' }}>
        <Menu.Label>Not in the shot, and not lost</Menu.Label>
        <ul className="aside" aria-label="Changes set aside">
          {aside.map(({ edit, why }) => (
            <li key={edit.id}>
              <b>{edit.name}</b> {why}
            </li>
          ))}
        </ul>
        <Menu.Item onClick={again}>Try them again</Menu.Item>
        <Menu.Item color="red" onClick={() => run(letAsideGo())}>
          Let them go
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function UndoPresses({ run }: { run: (thunk: Thunk) => void }) {
  const undos = useAppSelector((s) => s.shot.undo);
  const redos = useAppSelector((s) => s.shot.redo);
  return (
    <>
      <Tooltip label={undos.length ? `Undo: ${undos.at(-1)!.name} (Ctrl Z)` : 'Nothing to undo'}>
        <button className="plain" aria-label="Undo" disabled={!undos.length} onClick={() => run(undo)}>
          <IconArrowBackUp size={17} />
        </button>
      </Tooltip>
      <Tooltip
        label={
          redos.length
            ? `Redo: ${redos.at(-1)!.name.replace(/^Undo /, '')} (Ctrl Shift Z)`
            : 'Nothing to redo'
        }
      >
        <button className="plain" aria-label="Redo" disabled={!redos.length} onClick={() => run(redo)}>
          <IconArrowForwardUp size={17} />
        </button>
      </Tooltip>
    </>
  );
}

/** Every change that undo can take back, and redo bring again. */
function History({ run }: { run: (thunk: Thunk) => void }) {
  const history = useOpened();
  const undos = useAppSelector((s) => s.shot.undo);
  const redos = useAppSelector((s) => s.shot.redo);
  const repeat = (thunk: Thunk, times: number) => {
    for (let k = 0; k < times; k++) run(thunk);
  };
  return (
    <Menu position="bottom-end" width={260} {...history}>
      <Menu.Target>
        <button className="plain" aria-label="History" title="History: every change that undo can take back">
          <IconHistory size={16} />
        </button>
      </Menu.Target>
      <Menu.Dropdown mah={420} style={{ overflow: 'auto' }}>
        {undos.length + redos.length === 0 && <p className="empty">Nothing has been changed yet.</p>}
        {[...redos].map((e, i) => (
          <Menu.Item key={`redo ${i}`} c="dimmed" onClick={() => repeat(redo, redos.length - i)}>
            {e.name.replace(/^Undo /, '')}
          </Menu.Item>
        ))}
        {undos.length + redos.length > 0 && <Menu.Label>now</Menu.Label>}
        {undos
          .map((e, i) => (
            <Menu.Item key={`undo ${i}`} onClick={() => repeat(undo, undos.length - i)}>
              {e.name}
            </Menu.Item>
          ))
          .reverse()}
      </Menu.Dropdown>
    </Menu>
  );
}
