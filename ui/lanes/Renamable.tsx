'use client';

interface Props {
  name: string;
  editing: boolean;
  onEdit(editing: boolean): void;
  onName(name: string): void;
}

/** A name that a double-click turns into a field; Enter keeps, Escape leaves. */
export function Renamable({ name, editing, onEdit, onName }: Props) {
  if (!editing) {
    return (
      <span
        onDoubleClick={(e) => {
          e.stopPropagation();
          onEdit(true);
        }}
      >
        {name}
      </span>
    );
  }
  const keep = (value: string): void => {
    onEdit(false);
    if (value.trim() && value.trim() !== name) onName(value.trim());
  };
  return (
    <input
      autoFocus
      aria-label="Name"
      defaultValue={name}
      maxLength={200}
      style={{
        width: Math.max(60, name.length * 8),
        font: 'inherit',
        background: 'var(--pit)',
        color: 'var(--bone)',
        border: '1px solid var(--bone)',
      }}
      onFocus={(e) => e.target.select()}
      onBlur={(e) => keep(e.target.value)}
      onClick={(e) => e.stopPropagation()}
      onPointerDown={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') keep(e.currentTarget.value);
        if (e.key === 'Escape') onEdit(false);
      }}
    />
  );
}
