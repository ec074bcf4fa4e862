/** At which prices figures hold, as choices of a list. */
export function PriceOptions({ rounds }: { rounds: { id: number; name: string }[] }) {
  return (
    <>
      <option value="">inputs as they stand</option>
      <option value="standards">standards, all levels</option>
      <option value="level">standards, one level</option>
      {rounds.map((round) => (
        <option key={round.id} value={`round:${round.id}`}>
          round {round.name}
        </option>
      ))}
    </>
  );
}
