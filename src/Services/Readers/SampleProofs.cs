using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Reading;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Readers;

/// <summary>A reader tried on its samples.</summary>
/// <param name="Rows">One a sample that was tried, in the order in which they were added.</param>
/// <param name="Samples">How many samples there are.</param>
public sealed record SampleProof(IReadOnlyList<ProofRow> Rows, int Samples)
{
    /// <summary>Whether all samples were tried.</summary>
    public bool IsWhole => Rows.Count >= Samples;

    /// <summary>Share of right values, 0 to 1; null when nothing is known to be true.</summary>
    public double? Right => Proof.Share(Rows);
}

/// <summary>
/// Tries readers on their samples. A few are tried at once, whenever somebody looks; many in the background, one after another, so that
/// whoever works meanwhile has the processor. What was tried is kept in memory as long as nothing has changed that it rests on.
/// </summary>
public sealed class SampleProofs(Database database, Designs designs, TaughtReaders readers, Jobs jobs) : IWorksInJobs
{
    /// <summary>So many samples are tried while somebody waits.</summary>
    public const int AtOnce = 24;

    private readonly ConcurrentDictionary<string, (string State, SampleProof Proof)> _kept = new(StringComparer.Ordinal);

    /// <inheritdoc/>
    public IReadOnlyList<JobKind> Kinds => [new JobKind("proof", "Trying a reader on all its samples", "design", TryAsync)];

    /// <summary>What its job has as its subject.</summary>
    public static string Subject(string key) => $"proof of {key}";

    /// <summary>The proof of a reader: of all its samples when they are few or were tried in the background, else of the first.</summary>
    public SampleProof Of(string key)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return new SampleProof([], 0);
        var samples = database.Read(c => ReaderStore.Truths(c, key));
        var state = StateOf(reader, type, samples);
        if (_kept.TryGetValue(key, out var kept) && kept.State == state)
            return kept.Proof;
        return Keep(key, state, samples.Take(AtOnce).Select(s => Row(s.Id, reader, type)), samples.Count);
    }

    /// <summary>How many samples a reader has, and its proof when nothing has changed since it was made; nothing is tried.</summary>
    public (int Samples, SampleProof? Proof) Known(string key)
    {
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return (0, null);
        var samples = database.Read(c => ReaderStore.Truths(c, key));
        return samples.Count == 0 ? (0, new SampleProof([], 0))
            : _kept.TryGetValue(key, out var kept) && kept.State == StateOf(reader, type, samples) ? (samples.Count, kept.Proof)
            : (samples.Count, null);
    }

    /// <summary>Tries all samples in the background.</summary>
    public Result<Job> Start(string key, string who) =>
        readers.Find(key) is null
            ? Result<Job>.Not("There is no such reader.")
            : jobs.Start("proof", Subject(key), $"/Readers/Reader/{key}", key, who);

    private async Task TryAsync(Job job, CancellationToken cancel)
    {
        var key = job.Given<string>();
        if (readers.Find(key) is not { } reader || readers.TypeOf(reader) is not { } type)
            return;
        var samples = database.Read(c => ReaderStore.Truths(c, key));
        (job.Total, job.Done) = (samples.Count, 0);
        var rows = new List<ProofRow?>();
        foreach (var sample in samples)
        {
            cancel.ThrowIfCancellationRequested();
            await readers.RecogniseAsync(reader, sample.Id, cancel);
            rows.Add(Row(sample.Id, reader, type));
            job.Done++;
        }
        Keep(key, StateOf(reader, type, samples), rows, samples.Count);
    }

    private SampleProof Keep(string key, string state, IEnumerable<ProofRow?> rows, int samples)
    {
        var proof = new SampleProof([.. rows.OfType<ProofRow>()], samples);
        _kept[key] = (state, proof);
        return proof;
    }

    // One page at a time in memory; null for a sample that was taken away meanwhile.
    private ProofRow? Row(long id, Reader reader, DocumentType type) =>
        readers.Sample(id) is { } sample ? readers.Try(reader, type, sample) : null;

    // What a proof rests on: the reader, the type, what is true of the samples, vocabularies and tables.
    private string StateOf(Reader reader, DocumentType type, List<(long Id, string Name, string Truth)> samples) =>
        string.Join(
            '\n',
            Sql.ToJson(reader),
            Sql.ToJson(type),
            string.Join('\n', samples.Select(s => $"{s.Id} {s.Truth}")),
            RuntimeHelpers.GetHashCode(designs.Vocabularies),
            RuntimeHelpers.GetHashCode(designs.Tables)
        );
}
