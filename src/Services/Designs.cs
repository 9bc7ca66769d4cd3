using ClearLexicon.Core.Conventions;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Schemas;
using ClearLexicon.Core.Vocabularies;
using ClearLexicon.Storage;

namespace ClearLexicon.Services;

/// <summary>A published design, compiled.</summary>
/// <param name="Type">The compiled type.</param>
/// <param name="Version">Its version.</param>
public sealed record PublishedType(CompiledType Type, int Version);

/// <summary>Designs and vocabularies: change drafts, take changes back, publish; hand out what is published, compiled once.</summary>
public sealed class Designs(Database database, TimeProvider clock)
{
    private readonly Lock _lock = new();
    private Dictionary<string, PublishedType>? _published;
    private Dictionary<string, VocabularyIndex>? _vocabularies;

    /// <summary>All vocabularies, compiled, by key.</summary>
    public IReadOnlyDictionary<string, VocabularyIndex> Vocabularies
    {
        get
        {
            lock (_lock)
                return _vocabularies ??= database.Read(VocabularyStore.All).ToDictionary(v => v.Key, v => new VocabularyIndex(v), StringComparer.Ordinal);
        }
    }

    /// <summary>What documents are checked against, by type code.</summary>
    public IReadOnlyDictionary<string, PublishedType> Published
    {
        get
        {
            var vocabularies = Vocabularies;
            lock (_lock)
                return _published ??= database.Read(DesignStore.Published)
                    .ToDictionary(v => v.Design.Code, v => new PublishedType(new CompiledType(v.Design, vocabularies), v.Version), StringComparer.Ordinal);
        }
    }

    /// <summary>All document types with their drafts.</summary>
    public List<TypeState> All() => database.Read(DesignStore.All);

    /// <summary>One document type, or null.</summary>
    public TypeState? Find(string code) => database.Read(c => DesignStore.Find(c, code));

    /// <summary>Published versions, newest first.</summary>
    public List<TypeVersion> Versions(string code) => database.Read(c => DesignStore.Versions(c, code));

    /// <summary>Findings of a draft.</summary>
    public List<Finding> Findings(DocumentType draft) => [.. DesignCheck.Findings(draft, Vocabularies)];

    /// <summary>Makes an empty document type and returns its code.</summary>
    public Result<string> Create(string name, string who)
    {
        name = name.Trim();
        var code = DesignCheck.KeyFrom(name);
        if (code.Length == 0 || name.Length > DesignCheck.LongestName) return Result<string>.Not($"Write a name with letters, of at most {DesignCheck.LongestName} characters.");
        return database.Write<Result<string>>(c =>
        {
            if (!DesignStore.Add(c, DocumentType.Empty(code, name))) return Result<string>.Not($"There is a document type called “{name}” already.");
            LedgerStore.Append(c, clock.GetUtcNow(), who, "created a document type", code);
            return code;
        });
    }

    /// <summary>Changes a draft; the change can be taken back until the next publishing.</summary>
    /// <param name="code">The document type.</param>
    /// <param name="change">What is being done, as undo will name it.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="edit">Makes the new draft, or says why not.</param>
    public Result Change(string code, string change, string who, Func<DocumentType, Result<DocumentType>> edit) => database.Write<Result>(c =>
    {
        if (DesignStore.Find(c, code) is not { } state) return $"There is no document type “{code}”.";
        var edited = edit(state.Draft);
        if (!edited.Ok) return edited.Problem!;
        if (Sql.ToJson(edited.Value) == Sql.ToJson(state.Draft)) return Result.Done;
        DesignStore.SaveDraft(c, edited.Value!, change);
        LedgerStore.Append(c, clock.GetUtcNow(), who, change, code);
        return Result.Done;
    });

    /// <summary>Takes the last change back; returns what it was.</summary>
    public string? Undo(string code, string who) => database.Write(c =>
    {
        var undone = DesignStore.Undo(c, code);
        if (undone is not null) LedgerStore.Append(c, clock.GetUtcNow(), who, "took back: " + undone, code);
        return undone;
    });

    /// <summary>Publishes the draft as the next version, unless a must-finding stands against it.</summary>
    public Result<int> Publish(string code, string who)
    {
        var result = database.Write<Result<int>>(c =>
        {
            if (DesignStore.Find(c, code) is not { } state) return Result<int>.Not($"There is no document type “{code}”.");
            if (!state.DraftOpen) return Result<int>.Not($"Nothing has changed since version {state.Version}.");
            if (Findings(state.Draft).FirstOrDefault(f => f.Level == Level.Must) is { } finding) return Result<int>.Not(finding.Text);
            var version = DesignStore.Publish(c, state.Draft, clock.GetUtcNow(), who);
            LedgerStore.Append(c, clock.GetUtcNow(), who, $"published version {version}", code);
            return version;
        });
        Forget();
        return result;
    }

    /// <summary>Makes a vocabulary from a paste; nothing is made when any line is wrong.</summary>
    public Result<string> CreateVocabulary(string name, string pasted, string who)
    {
        var key = DesignCheck.KeyFrom(name.Trim());
        if (key.Length == 0) return Result<string>.Not("Write a name with letters.");
        var terms = PastedTerms.Parse(pasted, []);
        if (terms.Problems.Count > 0) return Result<string>.Not(string.Join(" ", terms.Problems.Take(5)));
        var result = database.Write<Result<string>>(c =>
        {
            if (!VocabularyStore.Add(c, key, name.Trim())) return Result<string>.Not($"There is a vocabulary called “{name.Trim()}” already.");
            VocabularyStore.AddTerms(c, key, terms.Terms);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "created a vocabulary", key, $"{terms.Terms.Count} terms");
            return key;
        });
        Forget();
        return result;
    }

    /// <summary>Adds pasted terms; nothing is added when any line is wrong.</summary>
    public Result<int> AddTerms(string key, string pasted, string who)
    {
        var result = database.Write<Result<int>>(c =>
        {
            var vocabulary = VocabularyStore.All(c).FirstOrDefault(v => v.Key == key);
            if (vocabulary is null) return Result<int>.Not($"There is no vocabulary “{key}”.");
            var terms = PastedTerms.Parse(pasted, vocabulary.Terms);
            if (terms.Problems.Count > 0) return Result<int>.Not(string.Join(" ", terms.Problems.Take(5)));
            if (terms.Terms.Count == 0) return Result<int>.Not("Write a preferred label.");
            VocabularyStore.AddTerms(c, key, terms.Terms);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "added terms", key, string.Join(" | ", terms.Terms.Take(5).Select(t => t.Label)));
            return terms.Terms.Count;
        });
        Forget();
        return result;
    }

    /// <summary>Retires a term or brings it back.</summary>
    public void SetTermStatus(string key, string label, TermStatus status, string who)
    {
        database.Write(c =>
        {
            VocabularyStore.SetStatus(c, key, label, status);
            LedgerStore.Append(c, clock.GetUtcNow(), who, status == TermStatus.Retired ? "retired a term" : "brought a term back", key, label);
        });
        Forget();
    }

    /// <summary>Makes the next reader of <see cref="Published"/> and <see cref="Vocabularies"/> compile anew.</summary>
    public void Forget()
    {
        lock (_lock)
        {
            _published = null;
            _vocabularies = null;
        }
    }
}
