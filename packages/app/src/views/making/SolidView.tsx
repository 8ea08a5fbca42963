export default function SolidView() {
  return null;
}
