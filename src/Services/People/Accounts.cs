using System.Security.Cryptography;
using System.Text;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Identity;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.People;

/// <summary>What became of a sign-in.</summary>
/// <param name="Person">The person; null when they are not let in.</param>
/// <param name="Problem">Why not, in one sentence that says nothing about the name.</param>
public readonly record struct SignInVerdict(Person? Person, string? Problem);

/// <summary>What a token may be used for.</summary>
public static class Scopes
{
    /// <summary>Have records checked.</summary>
    public const string Check = "check";

    /// <summary>Read document types.</summary>
    public const string Read = "read";

    /// <summary>Bring documents.</summary>
    public const string Bring = "bring";

    /// <summary>Read and change designs.</summary>
    public const string Design = "design";

    /// <summary>All, in the order they are offered.</summary>
    public static IReadOnlyList<string> All { get; } = [Check, Read, Bring, Design];
}

/// <summary>Accounts, passwords and API tokens.</summary>
public sealed class Accounts(Database database, TimeProvider clock)
{
    /// <summary>Longest name.</summary>
    public const int LongestName = 80;

    /// <summary>How long a one-time password is good.</summary>
    public static readonly TimeSpan OneTime = TimeSpan.FromDays(2);

    /// <summary>Most days that a token with an end works.</summary>
    public const int LongestToken = 3_660;

    /// <summary>Longest wait after failed sign-ins.</summary>
    public static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(15);

    private static readonly PasswordHasher<string> Hasher = new();

    // Verified against when there is no such person, so that the answer takes as long either way.
    private static readonly string NobodysHash = Hasher.HashPassword("", Guid.NewGuid().ToString());

    /// <summary>The word that the first administrator shows, printed where only who runs the program sees it.</summary>
    public string SetUpWord { get; } = Passwords.OneTimeWord();

    /// <summary>Whether nobody can sign in yet.</summary>
    public bool NobodyYet => !database.Read(PeopleStore.Any);

    /// <summary>Everybody.</summary>
    public List<Person> All() => database.Read(PeopleStore.All);

    /// <summary>The person with a name, or null.</summary>
    public Person? Find(string name) => database.Read(c => PeopleStore.Find(c, name));

    /// <summary>
    /// Lets a person in. After some failures, by the same name from the same address, by that name or from that address, each further one
    /// doubles the wait before the next is looked at.
    /// </summary>
    public SignInVerdict SignIn(string name, string password, string address)
    {
        name = name.Trim();
        if (name.Length > LongestName || password.Length > Passwords.Most)
            return new SignInVerdict(null, NotTogether);
        var now = clock.GetUtcNow();
        (string Key, int Free)[] keys =
        [
            ($"both {name.ToLowerInvariant()} {address}", 5),
            ($"name {name.ToLowerInvariant()}", 30),
            ($"address {address}", 30),
        ];
        var wait = database.Read(c => keys.Max(k => Wait(PeopleStore.Failures(c, k.Key), k.Free, now)));
        if (wait > TimeSpan.Zero)
            return new SignInVerdict(
                null,
                wait.TotalSeconds > 90
                    ? $"Too many attempts. Try again in {Math.Ceiling(wait.TotalMinutes):0} minutes."
                    : $"Too many attempts. Try again in {Math.Ceiling(wait.TotalSeconds):0} seconds."
            );
        var person = Find(name);
        var right =
            Hasher.VerifyHashedPassword("", person?.PasswordHash ?? NobodysHash, password) != PasswordVerificationResult.Failed
            && person is not null;
        var late = right && person!.OneTimeUntil < new Instant(now);
        database.Write(c =>
        {
            if (right && !late)
            {
                PeopleStore.ForgetFailures(c, keys[0].Key);
                PeopleStore.ForgetFailures(c, keys[1].Key);
                LedgerStore.Append(
                    c,
                    now,
                    person!.Name,
                    "signed in",
                    new LedgerSubject(SubjectKind.Person, person.Name),
                    address,
                    LedgerEvent.SignedIn
                );
                return;
            }
            foreach (var (key, _) in keys)
                PeopleStore.AddFailure(c, key, now);
            LedgerStore.Append(
                c,
                now,
                person?.Name ?? "somebody",
                "failed to sign in",
                new LedgerSubject(SubjectKind.Person, person?.Name ?? "an unknown name"),
                address
            );
        });
        return late ? new SignInVerdict(null, "This one-time password has expired; ask an administrator for another.")
            : right ? new SignInVerdict(person, null)
            : new SignInVerdict(null, NotTogether);
    }

    private const string NotTogether = "The name or the password is wrong.";

    private static TimeSpan Wait((int Count, DateTimeOffset Last) failures, int free, DateTimeOffset now)
    {
        if (failures.Count < free)
            return TimeSpan.Zero;
        var seconds = Math.Min(LongestWait.TotalSeconds, Math.Pow(2, Math.Min(failures.Count - free, 20)));
        // A failure that lies further ahead than anybody ever waits was noted by a clock that has been set back since.
        return failures.Last - now > LongestWait ? TimeSpan.Zero : failures.Last.AddSeconds(seconds) - now;
    }

    /// <summary>Adds a person.</summary>
    public Result Add(string name, string password, IReadOnlyList<string> roles, string who) =>
        database.WriteIf(c => Add(c, name, password, roles, who), static r => r.Ok);

    private Result Add(SqliteConnection c, string name, string password, IReadOnlyList<string> roles, string who)
    {
        name = name.Trim();
        if (name.Length is 0 or > LongestName || name.Any(char.IsControl))
            return $"Write a name of at most {LongestName} characters.";
        if (RolesError(roles) is { } error)
            return error;
        if (Passwords.Error(password, name) is { } weak)
            return weak;
        if (PeopleStore.Find(c, name) is not null)
            return $"“{name}” has an account already.";
        PeopleStore.Add(c, name, Hasher.HashPassword("", password), roles);
        LedgerStore.Append(
            c,
            clock.GetUtcNow(),
            who,
            "added a person",
            new LedgerSubject(SubjectKind.Person, name),
            string.Join(", ", roles)
        );
        return Result.Done;
    }

    private static string? RolesError(IReadOnlyList<string> roles) =>
        roles.Count == 0 ? "Choose at least one role."
        : roles.FirstOrDefault(r => !Roles.All.Contains(r)) is { } unknown ? $"There is no role “{unknown}”."
        : null;

    /// <summary>The very first administrator, who shows the set-up code; refused once anybody has an account.</summary>
    /// <param name="name">Name.</param>
    /// <param name="password">Password.</param>
    /// <param name="word">The set-up code.</param>
    /// <param name="others">Roles besides that of an administrator.</param>
    public Result AddFirst(string name, string password, string word, IReadOnlyList<string>? others = null) =>
        database.WriteIf<Result>(
            c =>
            {
                // Asked in the transaction that adds: of two at once one is refused.
                if (PeopleStore.Any(c))
                    return "There are accounts already; ask an administrator.";
                if (
                    !CryptographicOperations.FixedTimeEquals(
                        Encoding.UTF8.GetBytes(word.Trim().ToLowerInvariant()),
                        Encoding.UTF8.GetBytes(SetUpWord)
                    )
                )
                    return "This is not the set-up code that the program printed when it started.";
                return Add(
                    c,
                    name,
                    password,
                    [.. (others ?? []).Append(Roles.Administrator).Distinct(StringComparer.Ordinal)],
                    name.Trim()
                );
            },
            static r => r.Ok
        );

    /// <summary>Changes a person's own password, which ends their other sessions.</summary>
    public Result ChangePassword(string name, string old, string password)
    {
        if (Find(name) is not { } person)
            return "This person does not exist.";
        if (old.Length > Passwords.Most || Hasher.VerifyHashedPassword("", person.PasswordHash, old) == PasswordVerificationResult.Failed)
            return "That is not your current password.";
        if (old == password)
            return "The new password is the same as the old one; choose another.";
        if (Passwords.Error(password, name) is { } weak)
            return weak;
        database.Write(c =>
        {
            PeopleStore.SetPassword(c, person.Id, Hasher.HashPassword("", password), null);
            LedgerStore.Append(c, clock.GetUtcNow(), name, "changed their password", new LedgerSubject(SubjectKind.Person, name));
        });
        return Result.Done;
    }

    /// <summary>Gives a person a one-time password instead of their own, which is shown once; their sessions end.</summary>
    /// <param name="id">The person.</param>
    /// <param name="who">Who does it.</param>
    /// <param name="tokens">Whether their API tokens end, too.</param>
    public Result<string> Reset(long id, string who, bool tokens = false)
    {
        var word = Passwords.OneTimeWord();
        return database.WriteIf<Result<string>>(
            c =>
            {
                if (PeopleStore.All(c).FirstOrDefault(p => p.Id == id) is not { } person)
                    return Result<string>.Not("This person does not exist.");
                PeopleStore.SetPassword(c, id, Hasher.HashPassword("", word), new Instant(clock.GetUtcNow() + OneTime));
                var ended = tokens ? PeopleStore.RevokeOf(c, id) : 0;
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    "reset a password",
                    new LedgerSubject(SubjectKind.Person, person.Name),
                    ended > 0 ? $"{Counted.Of(ended, "API token")} ended" : ""
                );
                return word;
            },
            static r => r.Ok
        );
    }

    /// <summary>Ends one session: who signs out is out, also with a copy of the cookie.</summary>
    /// <param name="session">Its id.</param>
    /// <param name="longest">How long a session is good.</param>
    public void EndSession(string session, TimeSpan longest) =>
        database.Write(c => PeopleStore.EndSession(c, session, clock.GetUtcNow(), clock.GetUtcNow() + longest));

    /// <summary>Whether a session has been ended.</summary>
    public bool HasEnded(string session) => database.Read(c => PeopleStore.HasEnded(c, session));

    /// <summary>Sets the roles of a person; their sessions end.</summary>
    public Result SetRoles(long id, IReadOnlyList<string> roles, string who) =>
        database.WriteIf<Result>(
            c =>
            {
                if (PeopleStore.All(c).FirstOrDefault(p => p.Id == id) is not { } person)
                    return "This person does not exist.";
                if (RolesError(roles) is { } error)
                    return error;
                if (!roles.Contains(Roles.Administrator) && LastTwo(c, person))
                    return "At least two administrators must remain; add another one first.";
                if (roles.Order().SequenceEqual(person.Roles.Order()))
                    return Result.Done;
                PeopleStore.SetRoles(c, id, roles);
                LedgerStore.Append(
                    c,
                    clock.GetUtcNow(),
                    who,
                    "changed roles",
                    new LedgerSubject(SubjectKind.Person, person.Name),
                    $"{string.Join(", ", person.Roles)} → {string.Join(", ", roles)}"
                );
                return Result.Done;
            },
            static r => r.Ok
        );

    private static bool LastTwo(SqliteConnection c, Person person) =>
        person.Roles.Contains(Roles.Administrator) && PeopleStore.All(c).Count(p => p.Roles.Contains(Roles.Administrator)) < 3;

    /// <summary>Language of the messages a person reads; English when they are not known.</summary>
    public string LanguageOf(string name) => Find(name)?.Language ?? Core.Rules.Messages.English;

    /// <summary>Sets the language of a person's own messages.</summary>
    public Result SetLanguage(string name, string language)
    {
        if (Core.Rules.Messages.Languages.All(l => l.Code != language))
            return $"Messages are not available in “{language}”.";
        database.Write(c => PeopleStore.SetLanguage(c, name, language));
        return Result.Done;
    }

    private const int LongestEmail = 254;

    /// <summary>Sets the address to which a person's own notices are mailed; an empty one for none.</summary>
    public Result SetEmail(string name, string email)
    {
        email = email.Trim();
        if (
            email.Length > 0
            && (
                email.Length > LongestEmail
                || email.Any(c => c is <= ' ' or ',' or ';' or '<' or '>')
                || email.IndexOf('@') is < 1
                || !MimeKit.MailboxAddress.TryParse(email, out var address)
                || address.Address != email
            )
        )
            return $"“{Core.Vocabularies.CodePoints.First(email, 60)}” is not a mail address.";
        database.Write(c => PeopleStore.SetEmail(c, name, email));
        return Result.Done;
    }

    /// <summary>Takes access away. One of two administrators can only go when a third exists.</summary>
    public Result Remove(long id, string who) =>
        database.WriteIf<Result>(
            c =>
            {
                if (PeopleStore.All(c).FirstOrDefault(p => p.Id == id) is not { } person)
                    return "This person does not exist.";
                if (LastTwo(c, person))
                    return "At least two administrators must remain; add another one first.";
                PeopleStore.Remove(c, id);
                LedgerStore.Append(c, clock.GetUtcNow(), who, "removed a person", new LedgerSubject(SubjectKind.Person, person.Name));
                return Result.Done;
            },
            static r => r.Ok
        );

    /// <summary>Makes a token; it is shown once and only its hash is kept.</summary>
    /// <param name="person">Whose rights it carries.</param>
    /// <param name="label">What it is for.</param>
    /// <param name="scopes">What it may be used for; everything when not said.</param>
    /// <param name="days">Days that it works; no end when not said.</param>
    /// <param name="who">Who makes it; the person when not said.</param>
    public string MakeToken(Person person, string label, IReadOnlyList<string>? scopes = null, int? days = null, string? who = null)
    {
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20));
        label = label.Trim() is { Length: > 0 } given ? given[..Math.Min(given.Length, LongestName)] : "token";
        var today = clock.Today();
        DateOnly? until = days is { } d ? today.AddDays(Math.Clamp(d, 0, LongestToken)) : null;
        database.Write(c =>
        {
            PeopleStore.AddToken(c, person.Id, label, Hash(token), scopes ?? Scopes.All, until, today);
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who ?? person.Name,
                "made an API token",
                new LedgerSubject(SubjectKind.Token, label),
                $"with the rights of {person.Name}: "
                    + $"{string.Join(", ", scopes ?? Scopes.All)}{(until is null ? "" : $", until {Sql.Day(until)}")}"
            );
        });
        return token;
    }

    /// <summary>Tokens in use.</summary>
    public List<Token> Tokens() => database.Read(PeopleStore.Tokens);

    /// <summary>Ends a token.</summary>
    public void Revoke(long id, string who) =>
        database.Write(c =>
        {
            PeopleStore.Revoke(c, id);
            LedgerStore.Append(c, clock.GetUtcNow(), who, "ended an API token", new LedgerSubject(SubjectKind.Token, id));
        });

    /// <summary>Ends every token with a label, such as those of earlier starts.</summary>
    public void RevokeCalled(string label) => database.Write(c => PeopleStore.RevokeCalled(c, label));

    /// <summary>Whose token it is and what it may be used for; null when it does not work.</summary>
    public (Person Person, IReadOnlyList<string> Scopes)? ByToken(string token) =>
        database.Read(c => PeopleStore.ByToken(c, Hash(token), clock.Today()));

    private static string Hash(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
