using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Identity;

namespace ClearLexicon.Services;

/// <summary>The roles.</summary>
public static class Roles
{
    /// <summary>Designs, publishes, migrates.</summary>
    public const string Steward = "steward";

    /// <summary>Works the desk, edits.</summary>
    public const string Indexer = "indexer";

    /// <summary>Reads; sees no restricted value.</summary>
    public const string Searcher = "searcher";

    /// <summary>People, tokens, settings.</summary>
    public const string Administrator = "administrator";

    /// <summary>All, in the order they are offered.</summary>
    public static IReadOnlyList<string> All { get; } = [Steward, Indexer, Searcher, Administrator];

    /// <summary>Whether a role sees restricted values.</summary>
    public static bool SeesRestricted(string role) => role != Searcher;
}

/// <summary>Accounts, passwords and API tokens.</summary>
public sealed class People(Database database, TimeProvider clock)
{
    /// <summary>Shortest password taken.</summary>
    public const int LeastPassword = 10;

    private static readonly PasswordHasher<string> Hasher = new();

    // Verified against when there is no such person, so that the answer takes as long either way.
    private static readonly string NobodysHash = Hasher.HashPassword("", Guid.NewGuid().ToString());

    /// <summary>Whether nobody can sign in yet.</summary>
    public bool NobodyYet => !database.Read(PeopleStore.Any);

    /// <summary>Everybody.</summary>
    public List<Person> All() => database.Read(PeopleStore.All);

    /// <summary>The person, when the password is right.</summary>
    public Person? SignIn(string name, string password)
    {
        var person = database.Read(c => PeopleStore.Find(c, name.Trim()));
        var verdict = Hasher.VerifyHashedPassword("", person?.PasswordHash ?? NobodysHash, password);
        return verdict == PasswordVerificationResult.Failed ? null : person;
    }

    /// <summary>Adds a person.</summary>
    public Result Add(string name, string password, string role, string who)
    {
        name = name.Trim();
        if (name.Length is 0 or > 80) return "Write a name of at most 80 characters.";
        if (!Roles.All.Contains(role)) return $"There is no role “{role}”.";
        if (password.Length < LeastPassword) return $"The password needs at least {LeastPassword} characters.";
        return database.Write<Result>(c =>
        {
            if (PeopleStore.Find(c, name) is not null) return $"“{name}” has an account already.";
            PeopleStore.Add(c, name, Hasher.HashPassword("", password), role);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "added a person", name, role);
            return Result.Done;
        });
    }

    /// <summary>The very first administrator; refused once anybody has an account.</summary>
    public Result AddFirst(string name, string password) =>
        NobodyYet ? Add(name, password, Roles.Administrator, name) : "There are accounts already; ask an administrator.";

    /// <summary>Language of the messages a person reads; English when they are not known.</summary>
    public string LanguageOf(string name) => database.Read(c => PeopleStore.Find(c, name))?.Language ?? Core.Rules.Messages.English;

    /// <summary>Sets the language of a person's own messages.</summary>
    public Result SetLanguage(string name, string language)
    {
        if (Core.Rules.Messages.Languages.All(l => l.Code != language)) return $"There are no messages in “{language}”.";
        database.Write(c => PeopleStore.SetLanguage(c, name, language));
        return Result.Done;
    }

    /// <summary>Takes access away. One of two administrators can only go when a third exists.</summary>
    public Result Remove(long id, string who) => database.Write<Result>(c =>
    {
        var all = PeopleStore.All(c);
        if (all.FirstOrDefault(p => p.Id == id) is not { } person) return "There is no such person.";
        if (person.Role == Roles.Administrator && all.Count(p => p.Role == Roles.Administrator) < 3)
            return "At least two administrators must remain; add another one first.";
        PeopleStore.Remove(c, id);
        LedgerStore.Append(c, clock.GetUtcNow(), who, "removed a person", person.Name);
        return Result.Done;
    });

    /// <summary>Makes a token; it is shown once and only its hash is kept.</summary>
    public string MakeToken(Person person, string label)
    {
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20));
        database.Write(c =>
        {
            PeopleStore.AddToken(c, person.Id, label.Trim().Length == 0 ? "token" : label.Trim(), Hash(token), clock.GetUtcNow());
            LedgerStore.Append(c, clock.GetUtcNow(), person.Name, "made an API token", label);
        });
        return token;
    }

    /// <summary>Tokens in use.</summary>
    public List<Token> Tokens() => database.Read(PeopleStore.Tokens);

    /// <summary>Ends a token.</summary>
    public void Revoke(long id, string who) => database.Write(c =>
    {
        PeopleStore.Revoke(c, id);
        LedgerStore.Append(c, clock.GetUtcNow(), who, "ended an API token", id.ToString());
    });

    /// <summary>Whose token it is, or null.</summary>
    public Person? ByToken(string token) => database.Read(c => PeopleStore.ByToken(c, Hash(token)));

    private static string Hash(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
