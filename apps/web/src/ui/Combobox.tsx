import { useCombobox } from 'downshift';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';

interface Props<T> {
  label: string;
  all: readonly T[];
  /** What stands in the list and is searched. */
  textOf: (item: T) => string;
  keyOf: (item: T) => string;
  chosen: T | null;
  choose: (item: T | null) => void;
  /** What is searched, where that is more than what stands in the list. */
  findIn?: (item: T) => string;
  /** Told what is typed, where words of one's own are an answer too. */
  typed?: (text: string) => void;
  /** Told what is typed, where the list grows by it. */
  search?: (text: string) => void;
  placeholder?: string;
  className?: string;
}

/** Words of a search, each of which must stand somewhere in the text. */
export function finds(text: string, search: string): boolean {
  const t = text.toLowerCase();
  return search
    .toLowerCase()
    .split(/\s+/)
    .every((word) => t.includes(word));
}

/** One of a long list, by typing part of its name or by looking through it. */
export function Combobox<T>({
  label,
  all,
  textOf,
  keyOf,
  chosen,
  choose,
  findIn = textOf,
  typed,
  search: ask,
  placeholder,
  className = '',
}: Props<T>) {
  const [search, setSearch] = useState('');
  const shown = search === '' ? all : all.filter((x) => finds(findIn(x), search));
  const box = useCombobox<T>({
    items: [...shown],
    selectedItem: chosen,
    itemToString: (x) => (x ? textOf(x) : ''),
    itemToKey: (x) => x && keyOf(x),
    defaultHighlightedIndex: 0,
    onInputValueChange: ({ inputValue, type }) => {
      const byHand = type === useCombobox.stateChangeTypes.InputChange;
      setSearch(byHand ? inputValue : '');
      if (!byHand) return;
      typed?.(inputValue);
      ask?.(inputValue);
    },
    onSelectedItemChange: ({ selectedItem }) => choose(selectedItem ?? null),
    onIsOpenChange: ({ isOpen }) => {
      if (!isOpen) setSearch('');
    },
  });
  return (
    <div className={`field relative ${className}`}>
      {/* biome-ignore lint/a11y/noLabelWithoutControl: the props carry its htmlFor */}
      <label {...box.getLabelProps()}>{label}</label>
      <div className="join">
        <input
          className="input join-item"
          placeholder={placeholder}
          {...box.getInputProps({ onFocus: (e) => e.currentTarget.select() })}
        />
        <button
          type="button"
          className="btn join-item px-3"
          {...box.getToggleButtonProps({ 'aria-label': `${label}: the whole list` })}
        >
          <ChevronDown size={18} aria-hidden />
        </button>
      </div>
      <ul
        {...box.getMenuProps()}
        className={
          box.isOpen
            ? 'menu absolute inset-x-0 top-full z-30 mt-1 max-h-80 w-full flex-nowrap overflow-auto rounded-box border border-rule bg-base-100 shadow'
            : 'hidden'
        }
      >
        {box.isOpen &&
          shown.map((item, index) => (
            <li key={keyOf(item)} {...box.getItemProps({ item, index })}>
              <span
                className={`min-h-11 text-[1rem] font-normal ${box.highlightedIndex === index ? 'menu-focus' : ''}`}
              >
                {textOf(item)}
              </span>
            </li>
          ))}
        {box.isOpen && shown.length === 0 && (
          <li className="px-3 py-2 font-normal text-soft">
            {typed ? 'No such name in the list: your own words are kept.' : 'No such name in the list.'}
          </li>
        )}
      </ul>
    </div>
  );
}
