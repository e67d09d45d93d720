'use client';
// Fields: a line or an area of text, a choice of a few, ticks and radios. Behaviour is React Aria's; what they look like stands here once.

import { Check, ChevronDown, Search, Minus } from './icons';
import { useState, type ReactNode, type Ref } from 'react';
import {
  Button as AriaButton,
  Checkbox,
  FieldError,
  Input,
  Label,
  ListBox,
  ListBoxItem,
  Radio,
  RadioGroup,
  SearchField as AriaSearchField,
  Select,
  SelectValue,
  Text,
  TextArea as AriaTextArea,
  TextField as AriaTextField,
  type TextFieldProps,
} from 'react-aria-components';
import styled, { css } from 'styled-components';
import { color, font, radius, space } from '../theme/theme';
import { MenuFrame } from './buttons';

const box = css`
  width: 100%;
  min-height: 36px;
  padding: ${space(1)} ${space(3)};
  border-radius: ${radius.small};
  border: 1px solid ${color.lineStrong};
  background: ${color.sheet};
  color: ${color.ink};
  font: 400 14.5px/1.3 ${font.text};
  &::placeholder {
    color: ${color.soft};
  }
`;
const labelled = css`
  display: flex;
  flex-direction: column;
  gap: ${space(1)};
  min-width: 0;
  label,
  .label {
    font-weight: 600;
    font-size: 13.5px;
  }
  [slot='description'] {
    color: ${color.soft};
    font-size: 13px;
  }
  .error {
    color: ${color.brick};
    font-size: 13px;
  }
`;
const TextFrame = styled(AriaTextField)<{ $mono?: boolean | undefined }>`
  ${labelled}
  flex: 1;
  input {
    ${box}
    ${(p) => (p.$mono ? `font-family: ${font.mono};` : '')}
  }
  textarea {
    ${box}
    font-family: ${font.mono};
    font-size: 13.5px;
    min-height: 150px;
    resize: vertical;
  }
`;

export interface FieldProps extends Omit<TextFieldProps, 'children' | 'isInvalid'> {
  label: string;
  description?: string | undefined;
  /** What is wrong with it, as a sentence. */
  error?: string | undefined;
  mono?: boolean | undefined;
  placeholder?: string | undefined;
}

/** A line of text. */
export function TextField({
  label,
  description,
  error,
  mono,
  placeholder,
  inputRef,
  autoComplete = 'off',
  ...props
}: FieldProps & { inputRef?: Ref<HTMLInputElement> }) {
  return (
    <TextFrame {...props} isInvalid={error !== undefined} $mono={mono}>
      <Label>{label}</Label>
      <Input ref={inputRef} placeholder={placeholder} autoComplete={autoComplete} spellCheck={false} />
      {description && !error && <Text slot="description">{description}</Text>}
      {error && <FieldError className="error">{error}</FieldError>}
    </TextFrame>
  );
}

/** Several lines of text. */
export function TextArea({
  label,
  description,
  error,
  placeholder,
  height = 150,
  ...props
}: Omit<FieldProps, 'mono'> & { height?: number }) {
  return (
    <TextFrame {...props} isInvalid={error !== undefined}>
      <Label>{label}</Label>
      <AriaTextArea placeholder={placeholder} spellCheck={false} style={{ minHeight: height }} />
      {description && !error && <Text slot="description">{description}</Text>}
      {error && <FieldError className="error">{error}</FieldError>}
    </TextFrame>
  );
}

/** A text that is shown as it is typed until the field is left, though what is kept of it is tidier; what `check` refuses is not handed on. */
export function DraftField({
  value,
  onChange,
  check,
  ...props
}: Omit<FieldProps, 'error' | 'value' | 'onChange' | 'onBlur'> & {
  value: string;
  onChange: (value: string) => void;
  check?: (value: string) => string | undefined;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const error = draft === null ? undefined : check?.(draft);
  return (
    <TextField
      {...props}
      value={draft ?? value}
      error={error}
      // What is not right yet stays where it was typed, with the reason.
      onBlur={() => error === undefined && setDraft(null)}
      onChange={(next) => {
        setDraft(next);
        if (check?.(next) === undefined) onChange(next);
      }}
    />
  );
}

const SearchFrame = styled(AriaSearchField)`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  border: 1px solid ${color.lineStrong};
  border-radius: ${radius.small};
  background: ${color.sheet};
  padding: 0 ${space(2)};
  min-height: 32px;
  flex: 1 1 260px;
  min-width: 160px;
  color: ${color.soft};
  input {
    border: none;
    background: transparent;
    outline: none;
    color: ${color.ink};
    font: 400 14.5px ${font.text};
    width: 100%;
    min-width: 0;
  }
  input::placeholder {
    color: ${color.soft};
  }
  input::-webkit-search-cancel-button {
    display: none;
  }
  &:focus-within {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
  kbd {
    border: 1px solid ${color.line};
    border-radius: 4px;
    padding: 0 6px;
    font: 400 12.5px ${font.mono};
  }
`;

/** The search of a page, reached by `/` from anywhere on it; Escape empties it. */
export function SearchField({
  label,
  placeholder,
  value,
  onChange,
}: {
  label: string;
  placeholder: string;
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <SearchFrame aria-label={label} value={value} onChange={onChange}>
      <Search size={15} aria-hidden />
      <Input data-search placeholder={placeholder} autoComplete="off" spellCheck={false} />
      <kbd aria-hidden>/</kbd>
    </SearchFrame>
  );
}

const ChooseFrame = styled(Select)<{ $mono?: boolean | undefined }>`
  ${labelled}
  > button {
    ${box}
    display: flex;
    align-items: center;
    gap: ${space(2)};
    text-align: left;
    cursor: pointer;
    ${(p) => (p.$mono ? `font-family: ${font.mono}; font-size: 13.5px;` : '')}
  }
  > button[data-disabled] {
    color: ${color.soft};
    border-style: dashed;
    cursor: default;
  }
  > button > .react-aria-SelectValue {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  > button > svg {
    flex: none;
    color: ${color.soft};
  }
`;
const Options = styled(MenuFrame)`
  min-width: var(--trigger-width);
  [role='option'] {
    display: flex;
    gap: ${space(2)};
    align-items: center;
    padding: 6px ${space(3)};
    border-radius: ${radius.small};
    cursor: pointer;
    outline: none;
  }
  [role='option'] svg {
    flex: none;
    visibility: hidden;
  }
  [role='option'][data-selected] svg {
    visibility: visible;
  }
`;

/** A choice of a few. `hidden`: the label is for ears only, where what stands beside it says it to the eye. */
export function Choose<T extends string>({
  label,
  value,
  onChange,
  options,
  mono,
  hidden,
}: {
  label: string;
  value: T;
  onChange: (value: T) => void;
  options: readonly (readonly [T, string])[];
  mono?: boolean;
  hidden?: boolean;
}) {
  return (
    <ChooseFrame
      $mono={mono}
      value={value}
      onChange={(key) => onChange(key as T)}
      {...(hidden ? { 'aria-label': label } : {})}
    >
      {!hidden && <Label className="label">{label}</Label>}
      <AriaButton>
        <SelectValue className="react-aria-SelectValue">{({ selectedText }) => selectedText}</SelectValue>
        <ChevronDown size={15} aria-hidden />
      </AriaButton>
      <Options>
        <ListBox>
          {options.map(([id, name]) => (
            <ListBoxItem key={id} id={id} textValue={name}>
              <Check size={14} aria-hidden /> {name}
            </ListBoxItem>
          ))}
        </ListBox>
      </Options>
    </ChooseFrame>
  );
}

const mark = css`
  width: 17px;
  height: 17px;
  flex: none;
  border: 1.5px solid ${color.lineStrong};
  background: ${color.sheet};
  color: ${color.onGreen};
  display: inline-flex;
  align-items: center;
  justify-content: center;
`;
// The box that is pressed lies unseen over all of it, so that whatever finds it (a finger that explores, a program) finds it where it is drawn.
const over = css`
  position: relative;
  > span:first-child {
    position: absolute !important;
    inset: 0;
    width: 100% !important;
    height: 100% !important;
    margin: 0 !important;
    clip: auto !important;
    clip-path: none !important;
    opacity: 0;
  }
  > span:first-child input {
    width: 100%;
    height: 100%;
    margin: 0;
    cursor: inherit;
  }
`;
const TickFrame = styled(Checkbox)`
  ${over}
  display: flex;
  gap: ${space(2)};
  align-items: flex-start;
  cursor: pointer;
  min-height: 24px;
  min-width: 24px;
  .mark {
    ${mark}
    border-radius: 4px;
    margin-top: 3px;
  }
  &[data-selected] .mark,
  &[data-indeterminate] .mark {
    background: ${color.green};
    border-color: ${color.green};
  }
  &[data-hovered] .mark {
    border-color: ${color.ink};
  }
  &[data-focus-visible] .mark {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
  &[data-disabled] {
    cursor: default;
    opacity: 0.55;
  }
`;

/** One thing that is wanted or not. `some`: of several that it stands for, some are. */
export function Tick({
  checked,
  some = false,
  onChange,
  children,
  label,
  disabled,
  className,
}: {
  checked: boolean;
  some?: boolean;
  onChange: (checked: boolean) => void;
  children?: ReactNode;
  /** What it is called where no text stands beside it, or another than it is called by. */
  label?: string;
  disabled?: boolean;
  className?: string | undefined;
}) {
  return (
    <TickFrame
      {...(label === undefined ? {} : { 'aria-label': label })}
      {...(className === undefined ? {} : { className })}
      isSelected={checked && !some}
      isIndeterminate={some}
      isDisabled={disabled === true}
      onChange={onChange}
    >
      <span className="mark" aria-hidden>
        {some ? <Minus size={13} strokeWidth={3} /> : checked && <Check size={13} strokeWidth={3} />}
      </span>
      {children !== undefined && <span style={{ minWidth: 0 }}>{children}</span>}
    </TickFrame>
  );
}

/** The tick of a row that can be chosen; the row says whether it is. */
export function RowTick({ some = false }: { some?: boolean }) {
  return (
    <TickFrame slot="selection" isIndeterminate={some}>
      {({ isSelected, isIndeterminate }) => (
        <span className="mark" aria-hidden>
          {isIndeterminate ? (
            <Minus size={13} strokeWidth={3} />
          ) : (
            isSelected && <Check size={13} strokeWidth={3} />
          )}
        </span>
      )}
    </TickFrame>
  );
}

const RadiosFrame = styled(RadioGroup)`
  display: flex;
  flex-direction: column;
  gap: ${space(2)};
  min-width: 0;
`;
const RadioFrame = styled(Radio)<{ $framed: boolean }>`
  ${over}
  display: flex;
  gap: ${space(3)};
  align-items: flex-start;
  cursor: pointer;
  min-height: 26px;
  min-width: 0;
  ${(p) =>
    p.$framed
      ? css`
          padding: ${space(2)} ${space(3)};
          border: 1px solid ${color.line};
          border-radius: ${radius.small};
          &[data-selected] {
            border-color: ${color.greenText};
            background: ${color.greenTint};
          }
        `
      : ''}
  .mark {
    ${mark}
    border-radius: 50%;
    margin-top: 3px;
  }
  &[data-selected] .mark {
    border: 5px solid ${color.green};
  }
  &[data-focus-visible] .mark {
    outline: 2px solid ${color.saddle};
    outline-offset: 2px;
  }
  &[data-disabled] {
    cursor: default;
    opacity: 0.6;
  }
`;

/** One of several, all in sight. `framed`: each in a box of its own, where it says more than a word. */
export function Radios<T extends string>({
  label,
  value,
  onChange,
  options,
  framed = false,
  disabled = false,
}: {
  label: string;
  value: T;
  onChange: (value: T) => void;
  options: readonly { id: T; name?: string; content: ReactNode }[];
  framed?: boolean;
  disabled?: boolean;
}) {
  return (
    <RadiosFrame aria-label={label} value={value} onChange={(v) => onChange(v as T)} isDisabled={disabled}>
      {options.map((o) => (
        <RadioFrame
          key={o.id}
          value={o.id}
          $framed={framed}
          {...(o.name === undefined ? {} : { 'aria-label': o.name })}
        >
          <span className="mark" aria-hidden />
          <span style={{ minWidth: 0, flex: 1 }}>{o.content}</span>
        </RadioFrame>
      ))}
    </RadiosFrame>
  );
}
