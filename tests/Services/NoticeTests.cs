using System.Net;
using System.Net.Sockets;
using System.Text;
using ClearLexicon.Demo;
using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>People are told of what is filed and changed, in the application and by mail, and never of what they may not see.</summary>
public sealed class NoticeTests : IDisposable
{
    private const string Code = "vessel-call-record";

    private readonly House _house = new House().WithDesigns();
    private static readonly Rights Desk = new([Roles.Indexer]);

    private void Person(string name, string role, string email = "")
    {
        _house.Database.Write(c => PeopleStore.Add(c, name, "x", [role]));
        Assert.Null(_house.People.SetEmail(name, email).Problem);
    }

    private static NoticeRule Rule(string ask, string to, bool filed = true, bool changed = true, bool daily = false) =>
        new(0, $"rule “{ask}”", new ViewDefinition { Type = Code, Ask = ask }, filed, changed, to, daily, "");

    private async Task<List<long>> Ready()
    {
        foreach (var page in HarbourDocuments.AlreadyFiled().Where(p => p.Design.TypeCode == Code))
            HarbourDocuments.Draw(page, _house.Folder.Tray);
        await (await _house.Intake.ScanAsync("me"))!.Value.Job!.Completion;
        return _house.Desk.Queue("me");
    }

    private List<(long Document, string What)> Told(string who) =>
        [.. _house.Notices.Of(who).Where(n => !n.Seen).Select(n => (n.Document, n.What)).OrderBy(n => n.Document)];

    [Fact]
    public async Task Each_is_told_once_of_what_the_question_finds_with_their_own_rights()
    {
        var ids = await Ready();
        Person("ann", Roles.Indexer);
        Person("sue", Roles.Searcher);
        Person("sid", Roles.Searcher);
        Assert.Null(_house.Filer.File(ids[0], "me").Problem);
        // A searcher may not ask for a restricted field; made so by somebody who may, the rule still tells them nothing.
        Assert.True(_house.Designs.Published[Code].Type.Type.Find("master")!.Restricted);
        var master = _house.Get(ids[1]).Record["master"];
        // Others may have the same master and vessel: the number tells which is meant.
        var number = _house.Get(ids[1]).Record["call-number"];
        Assert.NotNull(_house.Notices.Save(Rule($"Master is {master}", "sue"), "sue", new Rights([Roles.Searcher])).Problem);
        Assert.Null(_house.Notices.Save(Rule($"Master is {master} and Call number is {number}", Roles.Searcher), "ann", Desk).Problem);
        Assert.Null(_house.Notices.Save(Rule($"Master is {master} and Call number is {number}", "ann"), "ann", Desk).Problem);
        Assert.Null(_house.Notices.Save(Rule($"Call number is {number}", Roles.Searcher, changed: false), "ann", Desk).Problem);
        Assert.Contains("neither a role", _house.Notices.Save(Rule("", "nobody"), "ann", Desk).Problem);
        Assert.Contains("filed, or when", _house.Notices.Save(Rule("", "ann", false, false), "ann", Desk).Problem);
        Assert.NotNull(_house.Notices.Save(Rule("Weather is bad", "ann"), "ann", Desk).Problem);

        // What was filed before anybody asked is not told.
        _house.Notices.Tick();
        Assert.Empty(Told("ann"));
        foreach (var id in ids.Skip(1))
            _house.Filer.File(id, "me");
        Assert.Equal(3, _house.Notices.Tick());
        Assert.Equal([(ids[1], "filed")], Told("ann"));
        Assert.Equal([(ids[1], "filed")], Told("sue"));
        Assert.Equal([(ids[1], "filed")], Told("sid"));
        Assert.Equal(0, _house.Notices.Tick());

        // What has not been seen yet is not told again; once it was, the next change is.
        Assert.Null(_house.Filed.Edit(ids[1], "agent", "Somebody", "", "bob").Problem);
        _house.Notices.Tick();
        Assert.Equal([(ids[1], "filed")], Told("ann"));
        _house.Notices.SetSeen("ann", _house.Notices.Of("ann").Max(n => n.Id));
        Assert.Equal(0, _house.Notices.New("ann").Number);
        Assert.Null(_house.Filed.Edit(ids[1], "agent", "Somebody else", "", "bob").Problem);
        Assert.Null(_house.Filed.Edit(ids[2], "agent", "Somebody else", "", "bob").Problem);
        _house.Notices.Tick();
        Assert.Equal([(ids[1], "changed")], Told("ann"));
        Assert.Equal([(ids[1], "filed")], Told("sue"));
        // A dry run over the last month counts what would have been: that one filed for both searchers, and one changed and filed for ann.
        Assert.Equal(2, _house.Notices.LastMonth(Rule($"Call number is {number}", Roles.Searcher, changed: false)).Number);
        Assert.Equal(0, _house.Notices.LastMonth(Rule($"Master is {master} and Call number is {number}", Roles.Searcher)).Number);
        Assert.Equal(ids.Count, _house.Notices.LastMonth(Rule("", "ann", changed: false)).Number);
    }

    [Fact]
    public async Task Mail_goes_into_files_at_once_or_once_a_day_or_to_a_server_and_holds_no_values()
    {
        var ids = await Ready();
        Person("ann", Roles.Indexer, "ann@harbour.test");
        Person("bob", Roles.Indexer);
        foreach (var odd in new[] { "ann", "a b@c.d", "a@b.c\r\nBcc: x@y.z", "a@b.c, d@e.f", "x <a@b.c>" })
            Assert.Contains("not a mail address", _house.People.SetEmail("ann", odd).Problem);
        Assert.Null(_house.Notices.Save(Rule("", "ann", changed: false) with { Name = "All\r\nBcc: x@y.z" }, "me", Desk).Problem);
        Assert.Null(_house.Notices.Save(Rule("", Roles.Indexer, changed: false, daily: true) with { Name = "Daily" }, "me", Desk).Problem);
        foreach (var id in ids.Take(2))
            Assert.Null(_house.Filer.File(id, "me").Problem);
        _house.Notices.Tick();
        Assert.Equal(2, await _house.Mail.SendAsync());
        Assert.Equal(0, await _house.Mail.SendAsync());
        var files = Directory.GetFiles(_house.Folder.Outbox);
        Assert.Equal(2, files.Length);
        var mail = MimeKit.MimeMessage.Load(files[0]);
        Assert.Equal("ann@harbour.test", Assert.Single(mail.To.Mailboxes).Address);
        Assert.Empty(mail.Bcc);
        var text = mail.TextBody + mail.Subject;
        Assert.Contains(_house.Get(ids[0]).Name!, text, StringComparison.Ordinal);
        Assert.DoesNotContain(_house.Get(ids[0]).Record["agent"], text, StringComparison.Ordinal);

        // The day after, one mail for all of the day before; bob has no address.
        var tomorrow = new Tomorrow(_house.Clock);
        var later = new NoticeMail(_house.Database, _house.Folder, new Notices(_house.Database, _house.SearchRequests, tomorrow), tomorrow);
        Assert.Null(later.Set(new MailSettings("", "harbour@harbour.test", "https://harbour.test/"), "me").Problem);
        Assert.Equal(1, await later.SendAsync());
        var daily = MimeKit.MimeMessage.Load(Assert.Single(Directory.GetFiles(_house.Folder.Outbox, "daily*")));
        Assert.All(
            ids.Take(2),
            id => Assert.Contains($"https://harbour.test/Repository/Document/{id}", daily.TextBody, StringComparison.Ordinal)
        );

        // A server that does not answer keeps the mail waiting; one that does gets it.
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        listener.Stop();
        foreach (var odd in new[] { "harbour", "harbour:0", ":25", "a b:25" })
            Assert.Contains("host:port", later.Set(new MailSettings(odd, "a@b.c", ""), "me").Problem);
        Assert.Null(later.Set(new MailSettings($"127.0.0.1:{port}", "harbour@harbour.test", ""), "me").Problem);
        Assert.Null(_house.Filer.File(ids[2], "me").Problem);
        _house.Notices.Tick();
        Assert.Equal(0, await later.SendAsync());
        Assert.Contains("did not take it", later.Problem);
        using var server = new TcpListener(IPAddress.Loopback, port);
        server.Start();
        var got = new List<string>();
        _ = TakeMailsAsync(server, got);
        // One at once, and that of the day before.
        Assert.Equal(2, await later.SendAsync());
        Assert.Null(later.Problem);
        Assert.Equal(2, got.Count);
        Assert.All(got, m => Assert.Contains(_house.Get(ids[2]).Name!.Split(' ')[0], m, StringComparison.Ordinal));

        // One that asks for a name gets it; the password is in no database, and another server does not get it.
        var signed = new MailSettings($"127.0.0.1:{port}", "harbour@harbour.test", "", "harbour");
        Assert.Contains("Enter the password", later.Set(signed, "me").Problem);
        Assert.Null(later.Set(signed, "me", "salt water").Problem);
        Assert.Null(later.Set(signed, "me").Problem);
        var kept = new FileInfo(Path.Combine(_house.Folder.Keys, "mail-password"));
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, kept.UnixFileMode);
        Assert.DoesNotContain("salt water", _house.Database.Read(c => Storage.SettingStore.Find(c, "mail")), StringComparison.Ordinal);
        Assert.Null(_house.Filer.File(ids[3], "me").Problem);
        _house.Notices.Tick();
        Assert.Equal(2, await later.SendAsync());
        Assert.Contains(Convert.ToBase64String("\0harbour\0salt water"u8), got[2], StringComparison.Ordinal);
        Assert.Contains("Enter the password", later.Set(signed with { Server = "mail.elsewhere.test:587" }, "me").Problem);
        // On the line to another machine, or to what may be one, it goes encrypted or not at all.
        using var other = new TcpListener(IPAddress.Parse("127.0.0.2"), 0);
        other.Start();
        _ = TakeMailsAsync(other, got);
        var elsewhere = signed with { Server = $"127.0.0.2:{((IPEndPoint)other.LocalEndpoint).Port}" };
        Assert.Null(later.Set(elsewhere, "me", "salt water").Problem);
        Assert.Null(_house.Filer.File(ids[4], "me").Problem);
        _house.Notices.Tick();
        Assert.Equal(0, await later.SendAsync());
        Assert.Contains("did not take it", later.Problem);
        Assert.Equal(2, got.Count(m => m.Contains("AUTH", StringComparison.Ordinal)));
        Assert.Null(later.Set(signed with { User = "" }, "me").Problem);
        Assert.False(later.HasPassword);
    }

    private sealed class Tomorrow(TimeProvider today) : TimeProvider
    {
        public override DateTimeOffset GetUtcNow() => today.GetUtcNow().AddDays(1);
    }

    // The least that a mail server says.
    private static async Task TakeMailsAsync(TcpListener server, List<string> got)
    {
        while (true)
        {
            using var client = await server.AcceptTcpClientAsync();
            using var reader = new StreamReader(client.GetStream(), Encoding.UTF8);
            await using var writer = new StreamWriter(client.GetStream(), new UTF8Encoding(false)) { AutoFlush = true, NewLine = "\r\n" };
            await writer.WriteLineAsync("220 harbour.test");
            var mail = new StringBuilder();
            for (var data = false; await reader.ReadLineAsync() is { } line; )
            {
                mail.AppendLine(line);
                if (data && line != ".")
                    continue;
                var quits = line.StartsWith("QUIT", StringComparison.Ordinal);
                data = line.StartsWith("DATA", StringComparison.Ordinal);
                if (quits)
                    got.Add(mail.ToString());
                await writer.WriteLineAsync(
                    data ? "354 go on"
                    : quits ? "221 bye"
                    : line.StartsWith("EHLO", StringComparison.Ordinal) ? "250-harbour.test\r\n250 AUTH PLAIN"
                    : line.StartsWith("AUTH", StringComparison.Ordinal) ? "235 welcome"
                    : "250 well"
                );
                if (quits)
                    break;
            }
        }
    }

    public void Dispose() => _house.Dispose();
}
