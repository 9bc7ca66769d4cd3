using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Cleaning;

/// <summary>Cleans and reads the texts of one field, compiled once. Immutable and thread-safe.</summary>
public sealed class FieldReader
{
    /// <summary>Most rows of a table in one record.</summary>
    public const int MostRows = TableKind.MostRows;

    private readonly Func<string, string>? _clean;
    private readonly Func<string, FieldValue> _read;

    /// <summary>The field.</summary>
    public Field Field { get; }

    /// <summary>Compiles a field.</summary>
    /// <param name="field">The field.</param>
    /// <param name="vocabularies">Vocabularies by key; a term field whose vocabulary is missing accepts nothing.</param>
    public FieldReader(Field field, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        Field = field;
        Terms = field.Vocabulary is { } v ? vocabularies.GetValueOrDefault(v) : null;
        Columns = [.. field.Columns.Select(c => new FieldReader(c, vocabularies))];
        _clean = field.Cleaning is { Count: > 0 } steps ? CleaningSteps.Compile(steps, field) : null;
        _read = field.Kind.Reader(field, Terms, [.. Columns.Select(c => (Func<string?, FieldValue>)c.Read)]);
    }

    /// <summary>Readers of a table's columns.</summary>
    public IReadOnlyList<FieldReader> Columns { get; }

    /// <summary>The vocabulary of a term field.</summary>
    public VocabularyIndex? Terms { get; }

    /// <summary>Reads one text as the field.</summary>
    public FieldValue Read(string? text)
    {
        if (text is not null && !CodePoints.AreSound(text))
            return new FieldValue
            {
                Text = CodePoints.Repaired(text),
                Part = Unsound,
                State = ValueState.Unreadable,
            };
        if (_clean is not null && !string.IsNullOrEmpty(text))
            text = _clean(text);
        return FieldKind.Trimmed(text) is { } some ? _read(some) : FieldValue.Empty;
    }

    /// <summary>Whether a value could not be read because it holds NUL or half of a pair of surrogates.</summary>
    internal static bool IsUnsound(in FieldValue value) => ReferenceEquals(value.Part, Unsound);

    private static readonly object Unsound = new();
}
