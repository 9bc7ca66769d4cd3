using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Design;

/// <summary>Days on which the office is closed: what rules about working days ask for besides Saturdays and Sundays.</summary>
public sealed class ClosedDays(Database database, TimeProvider clock)
{
    /// <summary>All of them, the earliest first.</summary>
    public List<ClosedDay> All() => database.Read(ClosedDayStore.All);

    /// <summary>Adds days, each on a line with its date in front of its name; a day that is there gets the new name.</summary>
    /// <param name="text">The lines; empty ones are passed over.</param>
    /// <param name="who">Who adds them.</param>
    /// <returns>How many days were given; nothing is added when a line cannot be read.</returns>
    public Result<int> Add(string text, string who)
    {
        var days = new List<ClosedDay>();
        foreach (var (line, number) in text.Split('\n').Select((l, i) => (l.Trim(), i + 1)))
        {
            if (line.Length == 0)
                continue;
            var parts = line.Split([' ', '\t', ',', ';'], 2);
            if (!FieldParsing.TryDate(parts[0], out var day))
                return Result<int>.Not($"Line {number}: “{parts[0]}” is not a date; write it as 2024-12-25, then the name.");
            var name = parts.Length > 1 ? parts[1].Trim() : "";
            if (name.Length > ClosedDay.LongestName)
                return Result<int>.Not($"Line {number}: a name has at most {ClosedDay.LongestName} characters.");
            days.Add(new ClosedDay(day, name));
        }
        if (days.Count == 0)
            return Result<int>.Not("Write at least one date.");
        return database.Write<Result<int>>(c =>
        {
            var known = ClosedDayStore.All(c);
            if (known.Select(d => d.Day).Union(days.Select(d => d.Day)).Count() > ClosedDay.Most)
                return Result<int>.Not($"At most {ClosedDay.Most:N0} days can be kept; remove those of years long past.");
            foreach (var day in days)
                ClosedDayStore.Put(c, day);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "named closed days",
                new LedgerSubject(SubjectKind.ClosedDays),
                string.Join(", ", days.Take(20).Select(d => $"{d.Day:yyyy-MM-dd} {d.Name}".Trim()))
                    + (days.Count > 20 ? $" and {days.Count - 20} more" : "")
            );
            return days.Count;
        });
    }

    /// <summary>Removes a day.</summary>
    /// <returns>The day as a line that <see cref="Add"/> reads.</returns>
    public Result<string> Remove(DateOnly day, string who) =>
        database.Write<Result<string>>(c =>
        {
            if (ClosedDayStore.All(c).Find(d => d.Day == day) is not { } known)
                return Result<string>.Not("That day is no longer in the list.");
            ClosedDayStore.Remove(c, day);
            var line = $"{known.Day:yyyy-MM-dd} {known.Name}".Trim();
            LedgerStore.Append(c, clock.GetUtcNow(), who, "removed a closed day", new LedgerSubject(SubjectKind.ClosedDays), line);
            return line;
        });
}
