namespace ClearLexicon.Services.Work;

/// <summary>A service that works in jobs. Where services are registered it is declared as one, by which its kinds are known.</summary>
public interface IWorksInJobs
{
    /// <summary>The kinds of its jobs.</summary>
    IReadOnlyList<JobKind> Kinds { get; }
}
