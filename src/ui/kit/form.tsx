'use client';
// Forms: values by react-hook-form, checked by the schema of what is asked, kept until they are done or taken back. Enter in a line of text does what the
// form's button does, wherever that stands.

import { zodResolver } from '@hookform/resolvers/zod';
import { useEffect, useMemo, type ReactElement, type ReactNode } from 'react';
import {
  Controller,
  FormProvider,
  useForm,
  useFormContext,
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type UseFormReturn,
} from 'react-hook-form';
import { z } from 'zod';
import { MainButton } from './buttons';
import { Choose, DraftField, TextArea, TextField, Tick, type FieldProps } from './fields';
import { useKept } from './kept';
import { FolderField } from './places';

export interface KeptForm<V extends FieldValues> extends UseFormReturn<V> {
  /** Values as they are now. */
  values: V;
  /** Whether something was typed that is not done. */
  isChanged: boolean;
  /** Everything as it was, and nothing kept. */
  takeBack: () => void;
}

/** The schema of a form whose request is made of its values: it takes what the request's schema takes. */
export function asking<V extends FieldValues>(
  request: z.ZodType,
  made: (values: V) => unknown,
): z.ZodType<unknown, V> {
  return z.custom<V>((values) => request.safeParse(made(values as V)).success);
}

/**
 * A form whose values are kept under a name. `schema` says when it may be sent; `initial` is what it holds before anything is typed, and what is not typed
 * at follows it.
 */
export function useKeptForm<V extends FieldValues>(
  name: string,
  schema: z.ZodType<unknown, V>,
  initial: V,
): KeptForm<V> {
  const [kept, keep, latest] = useKept(name, z.record(z.string(), z.unknown()), {});
  const begin = JSON.stringify(initial);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- by what they say, not by which object says it
  const values = useMemo(() => ({ ...initial, ...kept }) as V, [begin, kept]);
  const form = useForm<V>({
    // eslint-disable-next-line @typescript-eslint/no-explicit-any -- the resolver's own types ask for a schema whose output is the form's values too
    resolver: zodResolver(schema as any),
    defaultValues: values as DefaultValues<V>,
    mode: 'onChange',
  });
  useEffect(() => {
    const all = JSON.parse(begin) as V;
    return form.subscribe({
      formState: { values: true },
      callback: ({ values: now }) => {
        const typed = Object.entries(now).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(all[k]));
        keep(typed.length > 0 ? Object.fromEntries(typed) : undefined);
      },
    });
  }, [form, keep, begin]);
  // What is kept rules: it may be of another place by now, or have been taken back. What counts is what is kept now, not when this was drawn: who types
  // fast is a letter ahead of it.
  useEffect(() => {
    const wanted = { ...(JSON.parse(begin) as V), ...latest() } as V;
    const now = form.getValues();
    if (Object.entries(wanted).some(([k, v]) => JSON.stringify(v) !== JSON.stringify(now[k as FieldPath<V>])))
      form.reset(wanted);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- whenever what is kept has changed; `latest` is another function each time
  }, [form, kept, begin]);
  return {
    ...form,
    values,
    isChanged: JSON.stringify(values) !== JSON.stringify({ ...values, ...initial }),
    takeBack: () => keep(undefined),
  };
}

/** What is in it is one form. Forms of dialogs opened from it are forms of their own. */
export function Form<V extends FieldValues>({
  form,
  label,
  onSubmit,
  children,
}: {
  form: KeptForm<V>;
  label?: string;
  /** With the values as they are; only called where the schema takes them. */
  onSubmit: (values: V) => unknown;
  children: ReactNode;
}) {
  const { values: _values, isChanged: _isChanged, takeBack: _takeBack, ...methods } = form;
  return (
    <FormProvider {...methods}>
      <form
        noValidate
        aria-label={label}
        style={{ display: 'contents' }}
        onSubmit={(event) => {
          event.preventDefault();
          // What is sent by a dialog's form comes up to here by React, not by the page.
          if (event.target !== event.currentTarget) return;
          void form.handleSubmit((values) => onSubmit(values))();
        }}
      >
        {children}
      </form>
    </FormProvider>
  );
}

/** A form without values of its own: Enter in its line of text does `onEnter`. */
export function EnterForm({ onEnter, children }: { onEnter: () => unknown; children: ReactNode }) {
  return (
    <form
      noValidate
      style={{ display: 'contents' }}
      onSubmit={(event) => {
        event.preventDefault();
        if (event.target === event.currentTarget) onEnter();
      }}
    >
      {children}
    </form>
  );
}

/** The button of the form. `unless`: what else must not be so. */
export function Submit({
  children,
  unless = false,
  label,
}: {
  children: ReactNode;
  unless?: boolean;
  label?: string;
}) {
  const {
    formState: { isValid, isSubmitting },
  } = useFormContext();
  return (
    <MainButton
      type="submit"
      isDisabled={!isValid || unless}
      isPending={isSubmitting}
      {...(label === undefined ? {} : { 'aria-label': label })}
    >
      {children}
    </MainButton>
  );
}

type Named<P> = Omit<P, 'value' | 'onChange' | 'error' | 'name'> & {
  name: string;
  /** What is wrong with a value, in words; the schema alone has none for people. */
  check?: (value: string) => string | undefined;
  /** Told beside the form, when it was changed by hand. */
  onTyped?: (value: string) => void;
};

const textOf = (value: unknown) => (typeof value === 'string' ? value : '');

interface Bound {
  value: unknown;
  onChange: (value: unknown) => void;
  onBlur: () => void;
  ref: (element: HTMLInputElement | null) => void;
}

/** A field of the form by its name, for the control that shows it. */
function Field<T>({
  name,
  onTyped,
  children,
}: {
  name: string;
  onTyped?: ((value: T) => void) | undefined;
  children: (field: Bound) => ReactElement;
}) {
  const { control } = useFormContext();
  return (
    <Controller
      control={control}
      name={name as FieldPath<FieldValues>}
      render={({ field }) =>
        children({
          value: field.value as unknown,
          onChange: (value) => {
            field.onChange(value);
            onTyped?.(value as T);
          },
          onBlur: field.onBlur,
          ref: field.ref,
        })
      }
    />
  );
}

export function FormText({ name, check, onTyped, ...props }: Named<FieldProps>) {
  return (
    <Field name={name} onTyped={onTyped}>
      {({ value, onChange, onBlur, ref }) => (
        <TextField
          {...props}
          name={name}
          inputRef={ref}
          value={textOf(value)}
          error={check?.(textOf(value))}
          onBlur={onBlur}
          onChange={onChange}
        />
      )}
    </Field>
  );
}

export function FormArea({ name, check, onTyped, ...props }: Named<FieldProps> & { height?: number }) {
  return (
    <Field name={name} onTyped={onTyped}>
      {({ value, onChange, onBlur }) => (
        <TextArea
          {...props}
          value={textOf(value)}
          error={check?.(textOf(value))}
          onBlur={onBlur}
          onChange={onChange}
        />
      )}
    </Field>
  );
}

export function FormFolder({
  name,
  onTyped,
  ...props
}: {
  name: string;
  label: string;
  title: string;
  description?: string;
  pick?: 'folder' | 'bag';
  placeholder?: string;
  onTyped?: (value: string) => void;
}) {
  return (
    <Field name={name} onTyped={onTyped}>
      {({ value, onChange }) => <FolderField {...props} value={textOf(value)} onChange={onChange} />}
    </Field>
  );
}

export function FormChoice<T extends string>({
  name,
  onTyped,
  ...props
}: {
  name: string;
  label: string;
  options: readonly (readonly [T, string])[];
  mono?: boolean;
  onTyped?: (value: T) => void;
}) {
  return (
    <Field name={name} onTyped={onTyped}>
      {({ value, onChange }) => <Choose {...props} value={textOf(value) as T} onChange={onChange} />}
    </Field>
  );
}

export function FormTick({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Field name={name}>
      {({ value, onChange }) => (
        <Tick checked={value === true} onChange={onChange}>
          {children}
        </Tick>
      )}
    </Field>
  );
}

/** A number of the form, typed as text: what is no number that `check` takes is not handed on. */
export function FormNumber({
  name,
  check,
  ...props
}: Omit<FieldProps, 'value' | 'onChange' | 'error' | 'name' | 'onBlur'> & {
  name: string;
  check: (value: string) => string | undefined;
}) {
  return (
    <Field name={name}>
      {({ value, onChange }) => (
        <DraftField {...props} value={String(value)} check={check} onChange={(v) => onChange(Number(v))} />
      )}
    </Field>
  );
}
