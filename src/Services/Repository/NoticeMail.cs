using System.Net.Sockets;
using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace ClearLexicon.Services.Repository;

/// <summary>How notices are mailed.</summary>
/// <param name="Server">Host and port of the mail server; empty while mail goes into files.</param>
/// <param name="From">Address that mail comes from.</param>
/// <param name="Site">Address of this place, for links; empty for none.</param>
/// <param name="User">Name to sign in to the server with; empty when it asks for none. The password is kept in a file of its own.</param>
public sealed record MailSettings(string Server, string From, string Site, string User = "")
{
    /// <summary>Mail goes into files.</summary>
    public static MailSettings Usual { get; } = new("", "clear-lexicon@localhost", "");
}

/// <summary>
/// Mails what people are told: as files (<c>.eml</c>, RFC 5322) in <c>outbox/</c>, or by a mail server when one is set (SMTP, encrypted
/// where the server offers it, and always where there is a password). Mail holds names and places of documents, no values. What a stop has
/// met between is written again under the same name, or sent again with the same message id.
/// </summary>
public sealed class NoticeMail(Database database, DataFolder folder, Notices notices, TimeProvider clock)
{
    private const int AtOnce = 100;
    private const int MostListed = 100;
    private const string Key = "mail";

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);

    /// <summary>How it is set.</summary>
    public MailSettings Settings =>
        database.Read(c => SettingStore.Find(c, Key)) is { } kept
            ? System.Text.Json.JsonSerializer.Deserialize<MailSettings>(kept, Sql.Json)!
            : MailSettings.Usual;

    /// <summary>Why the last mail could not be sent; null when it could.</summary>
    public string? Problem { get; private set; }

    // Beside the other secrets, so that a copy of the database holds none.
    private string PasswordFile => Path.Combine(folder.Keys, "mail-password");

    /// <summary>Whether there is a password to sign in to the server with.</summary>
    public bool HasPassword => File.Exists(PasswordFile);

    /// <summary>Sets how notices are mailed.</summary>
    /// <param name="settings">How.</param>
    /// <param name="who">Who sets it.</param>
    /// <param name="password">The password; empty for the one that is kept. Without a name none is kept.</param>
    public Result Set(MailSettings settings, string who, string password = "")
    {
        if (!MailboxAddress.TryParse(settings.From, out _) || settings.From.Any(char.IsControl))
            return $"“{settings.From}” is not a mail address.";
        if (settings.Server.Length > 0 && Server(settings.Server) is null)
            return "Write the server as host:port, such as mail.harbour.test:587.";
        if (settings.Site.Length > 0 && !(Uri.TryCreate(settings.Site, UriKind.Absolute, out var site) && site.Scheme is "http" or "https"))
            return "The address of this place begins with http:// or https://.";
        if (settings.User.Any(char.IsControl) || password.Any(char.IsControl))
            return "Name and password for the mail server are one line each.";
        // A password belongs to the server and the name that it was given for: nobody who sets another server is sent it.
        var before = Settings;
        var isSame = before.Server == settings.Server && before.User == settings.User;
        if (settings.User.Length > 0 && password.Length == 0 && !(isSame && HasPassword))
            return $"Enter the password of {settings.User}.";
        if (settings.User.Length == 0)
            File.Delete(PasswordFile);
        else if (password.Length > 0)
            Keep(password);
        Problem = null;
        if (password.Length == 0 && Sql.AreSame(settings, before))
            return Result.Done;
        database.Write(c =>
        {
            SettingStore.Set(c, Key, Sql.ToJson(settings with { Site = settings.Site.TrimEnd('/') }));
            LedgerStore.Append(
                c,
                clock.GetUtcNow(),
                who,
                "set how notices are mailed",
                new LedgerSubject(SubjectKind.Settings),
                settings.Server.Length > 0 ? settings.Server : "into files"
            );
        });
        return Result.Done;
    }

    private void Keep(string password)
    {
        Directory.CreateDirectory(folder.Keys);
        var draft = PasswordFile + ".new";
        File.Delete(draft);
        var own = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            own.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        using (var file = new FileStream(draft, own))
            file.Write(System.Text.Encoding.UTF8.GetBytes(password));
        File.Move(draft, PasswordFile, overwrite: true);
    }

    /// <summary>Mails what waits.</summary>
    /// <returns>How many mails went out.</returns>
    public async Task<int> SendAsync(CancellationToken cancel = default)
    {
        var settings = Settings;
        var sent = 0;
        while (
            database.Read(c => (Waiting: NoticeStore.ToMail(c, notices.Today, AtOnce), People: PeopleStore.All(c)))
                is { Waiting.Count: > 0 } now
        )
        {
            // At once a mail each; of the days before one for each person.
            var mails = now
                .Waiting.GroupBy(n => (n.Person, Key: n.Daily ? $"daily-{clock.DayOf(n.At):yyyy-MM-dd}-{n.Person}" : $"notice-{n.Id}"))
                .Select(g => (Person: now.People.Find(p => p.Id == g.Key.Person), g.Key.Key, Notices: g.ToList()))
                .ToList();
            foreach (var (person, key, told) in mails)
            {
                cancel.ThrowIfCancellationRequested();
                if (person is null || !MailboxAddress.TryParse(person.Email, out var to))
                {
                    database.Write(c => NoticeStore.SetMailed(c, told.Select(n => n.Id), sent: false));
                    continue;
                }
                // A name with signs of its own would be read as an address.
                var mail = Mail(settings, new MailboxAddress(person.Name, to.Address), key, told);
                if (await SendAsync(settings, mail, key, cancel) is { } problem)
                {
                    Problem = problem;
                    return sent;
                }
                database.Write(c => NoticeStore.SetMailed(c, told.Select(n => n.Id), sent: true));
                sent++;
            }
        }
        Problem = null;
        return sent;
    }

    private MimeMessage Mail(MailSettings settings, MailboxAddress to, string key, List<Notice> told)
    {
        var mail = new MimeMessage
        {
            Subject =
                told.Count == 1 ? $"{told[0].Rule}: {told[0].Name} was {told[0].What}" : $"{told.Count} documents were filed or changed",
            Date = clock.GetUtcNow(),
            MessageId = $"{key}@clear-lexicon",
        };
        mail.From.Add(MailboxAddress.Parse(settings.From));
        mail.To.Add(to);
        mail.Body = new TextPart("plain")
        {
            Text = string.Join(
                "\n\n",
                told.Take(MostListed)
                    .Select(n =>
                        $"{n.Rule}: {n.Name} was {n.What} ({n.At} UTC)"
                        + (n.Folder.Length > 0 ? $"\n{n.Folder}" : "")
                        + (settings.Site.Length > 0 ? $"\n{settings.Site}/Repository/Document/{n.Document}" : "")
                    )
                    .Append(told.Count > MostListed ? $"and {told.Count - MostListed} more" : "")
                    .Where(t => t.Length > 0)
            ),
        };
        return mail;
    }

    private async Task<string?> SendAsync(MailSettings settings, MimeMessage mail, string key, CancellationToken cancel)
    {
        try
        {
            if (Server(settings.Server) is not var (host, port))
            {
                Directory.CreateDirectory(folder.Outbox);
                var (draft, final) = (Path.Combine(folder.Outbox, $".{key}"), Path.Combine(folder.Outbox, $"{key}.eml"));
                await using (var file = File.Create(draft))
                    await mail.WriteToAsync(file, cancel);
                File.Move(draft, final, overwrite: true);
                return null;
            }
            using var client = new SmtpClient { Timeout = (int)Patience.TotalMilliseconds };
            await client.ConnectAsync(host, port, Security(host, port, settings.User.Length > 0), cancel);
            if (settings.User.Length > 0)
                await client.AuthenticateAsync(settings.User, await File.ReadAllTextAsync(PasswordFile, cancel), cancel);
            await client.SendAsync(mail, cancel);
            await client.DisconnectAsync(quit: true, cancel);
            return null;
        }
        catch (Exception e)
            when (e
                    is SocketException
                        or ServiceNotConnectedException
                        or CommandException
                        or ProtocolException
                        or AuthenticationException
                        or TimeoutException
                        or SslHandshakeException
                        or NotSupportedException
            )
        {
            return $"The mail server {settings.Server} did not take it: {e.Message}";
        }
        catch (Exception e) when (Failures.IsFromOutside(e))
        {
            return $"Mail could not be written: {Failures.InWords(e)}";
        }
    }

    // A password goes over an encrypted connection only, but for a server on this machine. Port 465 is encrypted from the start (RFC 8314).
    private static SecureSocketOptions Security(string host, int port, bool hasPassword) =>
        port == 465 ? SecureSocketOptions.SslOnConnect
        : hasPassword && host is not ("localhost" or "127.0.0.1") ? SecureSocketOptions.StartTls
        : SecureSocketOptions.StartTlsWhenAvailable;

    private static (string Host, int Port)? Server(string server) =>
        server.LastIndexOf(':') is > 0 and var at
        && int.TryParse(server.AsSpan(at + 1), out var port)
        && port is > 0 and < 65536
        && Uri.CheckHostName(server[..at]) is not UriHostNameType.Unknown
            ? (server[..at], port)
            : null;
}
