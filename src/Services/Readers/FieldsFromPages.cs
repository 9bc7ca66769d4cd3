using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Reading.Finders;
using ClearLexicon.Core.Reading.Proposals;
using ClearLexicon.Services.Design;

namespace ClearLexicon.Services.Readers;

/// <summary>Fields that pages propose, put into the draft of a document type with the vocabularies they need.</summary>
public sealed class FieldsFromPages(Designs designs, NewFields newFields)
{
    /// <summary>Adds fields for values that no field of the reader's type holds, to the draft of that type.</summary>
    /// <param name="reader">The reader.</param>
    /// <param name="proposal">What its samples propose.</param>
    /// <param name="values">The values, by side and label.</param>
    /// <param name="who">Who decides.</param>
    /// <returns>Key of the field of each value.</returns>
    public Result<IReadOnlyDictionary<(Side Side, string Label), string>> Add(
        Reader reader,
        ReaderProposal proposal,
        IReadOnlyList<(Side Side, string Label)> values,
        string who
    )
    {
        if (designs.Find(reader.TypeCode) is not { } state)
            return Not("The document type that this reader fills no longer exists.");
        var taken = designs.Resolve(state.Draft).Fields.Select(f => f.Key).ToHashSet(StringComparer.Ordinal);
        var proposed = TypeFromPages.Fields(proposal);
        var fields = new List<(Field Field, IReadOnlyList<string> Terms)>();
        foreach (var (side, label) in values)
        {
            if (proposed.FirstOrDefault(f => proposal.Values[f.At] is var v && v.Side == side && v.Label == label) is not { } known)
                return Not($"Nothing can be called after “{label}”; choose a field that exists, or leave it unticked.");
            var key = Enumerable.Range(1, 99).Select(n => n == 1 ? known.Field.Key : $"{known.Field.Key}-{n}").First(taken.Add);
            // Documents that are there already have none.
            fields.Add((known.Field with { Key = key, Required = false }, known.Terms));
        }
        var made = Put(
            reader.TypeCode,
            fields,
            "took fields from pages",
            who,
            (type, added) => type with { Fields = [.. type.Fields, .. added] }
        );
        return made.Ok ? new(values.Zip(made.Value!).ToDictionary(p => p.First, p => p.Second.Key), null) : Not(made.Problem!);

        static Result<IReadOnlyDictionary<(Side, string), string>> Not(string problem) =>
            Result<IReadOnlyDictionary<(Side, string), string>>.Not(problem);
    }

    /// <summary>Changes the draft of a type by fields, in one act with the vocabularies of those that hold terms.</summary>
    /// <param name="code">The type.</param>
    /// <param name="fields">The fields with the terms they need.</param>
    /// <param name="change">What is done, for the type's history.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="into">The type with the fields.</param>
    /// <returns>The fields as they stand in the type.</returns>
    internal Result<List<Field>> Put(
        string code,
        IReadOnlyList<(Field Field, IReadOnlyList<string> Terms)> fields,
        string change,
        string who,
        Func<DocumentType, List<Field>, DocumentType> into
    ) =>
        newFields.Put(
            code,
            [.. fields.Select(f => new NewField(f.Field, f.Field is VocabularyField ? $"{f.Field.Label} ({code})" : null, f.Terms))],
            change,
            who,
            (type, added) => into(type, added)
        );
}
