using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Conventions.Inference;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Services.Design;

/// <summary>What a person decides about a proposed field.</summary>
/// <param name="Label">Its label.</param>
/// <param name="Kind">Its kind.</param>
/// <param name="Existing">Key of a field of the type that is taken instead; null for none.</param>
public sealed record ChosenField(string Label, FieldKind Kind, string? Existing);

/// <summary>Conventions worked out from paths; held until they are taken or dropped.</summary>
public sealed class ConventionProposals(Designs designs, Drafts drafts, Vocabularies vocabularies)
{
    private readonly HeldPlans<ProposedConvention> _held = new();

    /// <summary>Works a convention out; nothing is changed.</summary>
    public Result<(string Ticket, ProposedConvention Proposal)> Propose(string code, IReadOnlyList<string> lines)
    {
        if (designs.Find(code) is not { } state)
            return Result<(string, ProposedConvention)>.Not($"There is no document type “{code}”.");
        var whole = designs.Resolve(state.Draft);
        var (proposal, problem) = PathInference.Propose(lines, whole, whole.Convention, designs.Vocabularies);
        return proposal is null ? Result<(string, ProposedConvention)>.Not(problem!) : (_held.Hold(proposal), proposal);
    }

    /// <summary>Makes the proposal the convention of the draft, with the fields it needs.</summary>
    /// <param name="code">The type.</param>
    /// <param name="ticket">The proposal.</param>
    /// <param name="fields">What was decided about its fields, by key.</param>
    /// <param name="asText">Numbers of pieces, folder first, that stay as fixed text.</param>
    /// <param name="who">Who does it.</param>
    /// <returns>The ticket under which it is held on when it could not be taken.</returns>
    public (Result Result, string Ticket, ProposedConvention? Proposal) Take(
        string code,
        string ticket,
        IReadOnlyDictionary<string, ChosenField> fields,
        IReadOnlySet<int> asText,
        string who
    )
    {
        if (_held.Take(ticket) is not { } proposal)
            return ("This proposal has expired; paste the paths again.", "", null);
        // The vocabularies that its fields need are made in the transaction that changes the draft.
        var wanted = new List<(string Name, IReadOnlyList<string> Words)>();
        var result = drafts.Change(
            code,
            "took a convention from paths",
            who,
            type =>
            {
                wanted.Clear();
                return With(type, proposal, fields, asText, wanted);
            },
            c =>
                wanted
                    .Select(w => vocabularies.Make(c, w.Name, string.Join('\n', w.Words), who, Growth.WithReview))
                    .FirstOrDefault(r => !r.Ok)
                    is { Problem: { } problem }
                    ? problem
                    : Result.Done
        );
        return result.Ok ? (result, "", proposal) : (result, _held.Hold(proposal), proposal);
    }

    private Result<DocumentType> With(
        DocumentType type,
        ProposedConvention proposal,
        IReadOnlyDictionary<string, ChosenField> fields,
        IReadOnlySet<int> asText,
        List<(string Name, IReadOnlyList<string> Words)> wanted
    )
    {
        var whole = designs.Resolve(type);
        var pieces = proposal
            .Folder.Concat(proposal.Name)
            .Select((p, i) => asText.Contains(i) && p.Values.Count > 0 ? Piece.Literal(p.Values[0]) : p.Piece)
            .ToList();
        var keys = new Dictionary<string, string>(StringComparer.Ordinal);
        var made = new List<Field>();
        foreach (var (proposed, words) in proposal.Fields)
        {
            if (pieces.All(p => p.Kind != PieceKind.Field || p.Field != proposed.Key))
                continue;
            var chosen = fields.GetValueOrDefault(proposed.Key) ?? new ChosenField(proposed.Label, proposed.Kind, null);
            if (chosen.Existing is { } existing)
            {
                if (whole.Find(existing) is null)
                    return Result<DocumentType>.Not($"There is no field “{existing}”.");
                keys[proposed.Key] = existing;
                continue;
            }
            var label = chosen.Label.Trim();
            var key = ShortName.From(label);
            if (key.Length == 0 || label.Length > DesignCheck.LongestName)
                return Result<DocumentType>.Not(
                    $"“{label}” is not a label; write one with letters, of at most {DesignCheck.LongestName} characters."
                );
            if (whole.Find(key) is not null || made.Any(m => m.Key == key))
                return Result<DocumentType>.Not($"There is a field with the key “{key}” already; take that one, or write another label.");
            var field =
                chosen.Kind == proposed.Kind
                    ? proposed with
                    {
                        Key = key,
                        Label = label,
                    }
                    : chosen.Kind.New(key, label) with
                    {
                        Required = proposed.Required,
                    };
            if (field is TermField term && words.Count > 0)
            {
                wanted.Add((label, words));
                field = term with { Vocabulary = ShortName.From(label) };
            }
            keys[proposed.Key] = key;
            made.Add(field);
        }
        var renamed = pieces
            .Select(p => p.Kind == PieceKind.Field && keys.TryGetValue(p.Field, out var key) ? p with { Field = key } : p)
            .ToList();
        return type with
        {
            Fields = [.. type.Fields, .. made],
            Convention = type.Convention with
            {
                Folder = [.. renamed.Take(proposal.Folder.Count)],
                Name = [.. renamed.Skip(proposal.Folder.Count)],
            },
        };
    }
}
