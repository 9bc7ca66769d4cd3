using ClearLexicon.Core.Reading.Stacks;

namespace ClearLexicon.Web.Forms;

/// <summary>A way in as its form writes and reads it, its separation among it.</summary>
public static class WayInForm
{
    /// <summary>The blanks filled with a way in.</summary>
    public static Form Write(WayIn way)
    {
        var form = SeparationForm.Write(way.Separation);
        form.Put("name", way.Name);
        form.Put("look-first", way.LookFirst.ToString());
        form.Put("reader", [.. way.Readers]);
        form.Put("type", way.TypeCode);
        form.Put("constants", string.Join('\n', way.Constants.Select(c => $"{c.Key}: {c.Value}")));
        form.Put(
            "parks",
            string.Join('\n', way.Parks.Select(p => $"{p.Field}: {p.Reason}{(p.ForWhom.Length > 0 ? $"; {p.ForWhom}" : "")}"))
        );
        form.Put("names", way.Names);
        form.Put("language", [.. way.Languages.Split('+', StringSplitOptions.RemoveEmptyEntries)]);
        form.Put("folder", way.Folder);
        form.Tick("watches", way.Watches);
        form.Put("person", [.. way.People]);
        return form;
    }

    /// <summary>The way in that a form gives; what cannot be read is noted in the form.</summary>
    /// <param name="form">The form.</param>
    /// <param name="key">Its key; empty for a new one.</param>
    /// <param name="was">The way in before; null for a new one.</param>
    public static WayIn Read(Form form, string key, WayIn? was = null) =>
        new(key, form.Text("name") ?? "")
        {
            Separation = SeparationForm.Read(form, was?.Separation),
            LookFirst = form.Choice<LookFirst>("look-first"),
            Readers = Many(form, "reader"),
            TypeCode = form.Text("type"),
            Constants = Constants(form),
            Parks = Parks(form),
            Names = form.Text("names") ?? "",
            Languages = string.Join('+', Many(form, "language")),
            Folder = form.Text("folder") ?? "",
            Watches = form.Ticked("watches"),
            People = Many(form, "person"),
        };

    private static string[] Many(Form form, string name) => [.. form.All(name).Where(t => t.Length > 0).Distinct(StringComparer.Ordinal)];

    private static Dictionary<string, string> Constants(Form form)
    {
        var constants = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var line in form["constants"].Text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            if (colon < 1)
                form.Refuse("constants", $"“{line}” is not a field, a colon and its value.");
            else if (!constants.TryAdd(line[..colon].Trim(), line[(colon + 1)..].Trim()))
                form.Refuse("constants", $"“{line[..colon].Trim()}” is given twice.");
        }
        return constants;
    }

    // A line each: field, colon, why, and behind a semicolon for whom.
    private static List<ParkRule> Parks(Form form)
    {
        var parks = new List<ParkRule>();
        foreach (var line in form["parks"].Text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var (colon, semicolon) = (line.IndexOf(':', StringComparison.Ordinal), line.LastIndexOf(';'));
            if (colon < 1)
                form.Refuse("parks", $"“{line}” is not a field, a colon and a reason.");
            else
                parks.Add(
                    new ParkRule(
                        line[..colon].Trim(),
                        (semicolon > colon ? line[(colon + 1)..semicolon] : line[(colon + 1)..]).Trim(),
                        semicolon > colon ? line[(semicolon + 1)..].Trim() : ""
                    )
                );
        }
        return parks;
    }
}
