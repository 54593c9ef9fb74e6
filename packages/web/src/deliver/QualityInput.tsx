import { TypedText } from '../components/Typed';

/** How much a picture that is packed with loss keeps, from 1 to 100. */
export function QualityInput({
  label,
  quality,
  width,
  onChange,
}: {
  label: string;
  quality: number;
  width: string;
  onChange(quality: number): void;
}) {
  return (
    <TypedText
      label={label}
      value={String(quality)}
      width={width}
      fault={(text) => (Number(text) >= 1 && Number(text) <= 100 ? null : '1 to 100')}
      onChange={(text) => onChange(Math.round(Number(text)))}
    />
  );
}
