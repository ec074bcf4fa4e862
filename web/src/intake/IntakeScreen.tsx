export function IntakeScreen() {
  return null;
}
