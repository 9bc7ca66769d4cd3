using System.Globalization;
using ClearLexicon.Core.Rules;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>Days on which the office is closed.</summary>
public static class ClosedDayStore
{
    /// <summary>All of them, the earliest first.</summary>
    public static List<ClosedDay> All(SqliteConnection c) =>
        c.Query(
            "SELECT day, name FROM closed_days ORDER BY day",
            r => new ClosedDay(DateOnly.ParseExact(r.Text("day"), "yyyy-MM-dd", CultureInfo.InvariantCulture), r.Text("name"))
        );

    /// <summary>Adds a day, or gives one another name.</summary>
    public static void Put(SqliteConnection c, ClosedDay day) =>
        c.Execute(
            "INSERT INTO closed_days (day, name) VALUES ($day, $name) ON CONFLICT (day) DO UPDATE SET name = $name",
            ("$day", Written(day.Day)),
            ("$name", day.Name)
        );

    /// <summary>Removes a day.</summary>
    public static void Remove(SqliteConnection c, DateOnly day) =>
        c.Execute("DELETE FROM closed_days WHERE day = $day", ("$day", Written(day)));

    private static string Written(DateOnly day) => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}
