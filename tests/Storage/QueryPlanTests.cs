using System.Linq.Expressions;
using System.Reflection;
using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Rules;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage.Tests;

/// <summary>
/// Every statement of every store, as it is written when the store's methods are called, against a database with statistics: none walks
/// through what grows with the documents, save those that are named here with the reason.
/// </summary>
public sealed partial class QueryPlanTests : IDisposable
{
    // Tables that have a row a document, or several.
    private static readonly string[] Growing =
    [
        "documents",
        "document_text",
        "unique_keys",
        "pages",
        "value_history",
        "found_in",
        "found_values",
        "found_pieces",
        "ledger",
        "batch_files",
        "stack_pages",
        "taken_files",
        "moves",
        "carried",
        "left_rows",
        "consequence_rows",
    ];

    private static readonly Dictionary<string, string> Allowed = new(StringComparer.Ordinal)
    {
        ["RepositorySearch.Find"] = "walks an index in the order that is shown, until a page is full",
        ["RepositorySearch.All"] = "gives all of it",
        ["RepositoryStore.EachPlace"] = "gives all of it, to what runs as a job",
        ["LedgerStore.Newest"] = "walks the ledger from its end, until a page is full",
        ["LedgerStore.Find"] = "walks the ledger from its end, until a page is full",
        ["LedgerStore.Verify"] = "reads the lines that it has not verified yet",
        ["NoticeStore.Since"] = "walks ledger and history from their ends, up to a bound",
        ["FoundStore.Sweep"] = "walks values by their id, some at a time",
        ["BatchStore.ToSeparate"] = "walks the files that were read and not separated yet, which an index of their own holds",
        ["DocumentStore.WithPages"] = "walks the documents that have pages, which are those of the last weeks",
    };

    // Methods that take no sample, as they have to.
    private static readonly string[] Refused =
    [
        "DocumentStore.Save: Document 0 has been changed since it was read.",
        "PageStore.Arrange: There is no page x.",
        "PileStore.TextOf: Sequence contains no elements",
    ];

    private readonly string _folder = Directory.CreateTempSubdirectory("plans").FullName;
    private readonly Database _db;

    public QueryPlanTests() => _db = new Database(Path.Combine(_folder, "test.db"));

    [Fact]
    public void No_statement_walks_through_what_grows_with_the_documents()
    {
        _db.Write(Fill);
        var seen = new List<(string Method, string Sql)>();
        var uncalled = new List<string>();
        var failed = new List<string>();
        foreach (
            var declared in typeof(Database)
                .Assembly.GetTypes()
                .Where(t =>
                    t.IsAbstract && t.IsSealed && t.Name.EndsWith("Store", StringComparison.Ordinal) || t == typeof(RepositorySearch)
                )
                .SelectMany(t =>
                    t.GetMethods(BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.Static | BindingFlags.DeclaredOnly)
                )
                .Where(m =>
                    !m.IsPrivate
                    && m.GetParameters() is [{ ParameterType: var first }, ..]
                    && first == typeof(SqliteConnection)
                    && m.GetCustomAttribute<CompilerGeneratedAttribute>() is null
                )
        )
        {
            // What is kept as JSON of any type is asked with one that takes anything.
            var method = declared.IsGenericMethodDefinition
                ? declared.MakeGenericMethod([.. declared.GetGenericArguments().Select(_ => typeof(Dictionary<string, string>))])
                : declared;
            var name = $"{method.DeclaringType!.Name}.{method.Name}";
            var before = seen.Count;
            foreach (var arguments in Arguments(method))
                try
                {
                    // Kept by nobody: each method meets the same database.
                    _db.WriteIf(
                        c =>
                        {
                            // The samples belong to nothing that is there.
                            c.Execute("PRAGMA defer_foreign_keys = ON; PRAGMA ignore_check_constraints = ON");
                            using var listening = Sql.ListenToStatements(sql => seen.Add((name, sql)));
                            if (method.Invoke(null, [c, .. arguments]) is System.Collections.IEnumerable lazy and not string)
                                foreach (var _ in lazy) { }
                            return 0;
                        },
                        _ => false
                    );
                }
                catch (TargetInvocationException e)
                {
                    // What was asked before was heard all the same; what would have come afterwards was not.
                    failed.Add($"{name}: {e.InnerException!.Message}");
                }
            if (seen.Count == before)
                uncalled.Add(name);
        }
        Assert.Empty(uncalled);
        Assert.Equal(Refused, failed.Distinct());
        Assert.True(seen.Count > 150, $"Only {seen.Count} statements were heard.");
        var scans = _db.Read(c =>
            seen.Distinct()
                .Where(s => !Allowed.ContainsKey(s.Method) && Statement().IsMatch(s.Sql))
                .SelectMany(s => Scans(c, s.Sql).Select(scan => $"{s.Method}: {scan}\n    {s.Sql}"))
                .Distinct()
                .ToList()
        );
        Assert.True(scans.Count == 0, string.Join('\n', scans));
        // A reason that is needed no more goes.
        Assert.All(Allowed.Keys, name => Assert.Contains(seen, s => s.Method == name));
    }

    private static IEnumerable<string> Scans(SqliteConnection c, string sql)
    {
        var names = Growing.Concat(Named().Matches(sql).Select(m => m.Groups[2].Value)).ToHashSet(StringComparer.OrdinalIgnoreCase);
        using var command = c.CreateCommand();
        command.CommandText = "EXPLAIN QUERY PLAN " + sql;
        foreach (var parameter in Parameter().Matches(sql).Select(m => m.Value).Distinct(StringComparer.Ordinal))
            command.Parameters.AddWithValue(parameter, 1);
        using var reader = command.ExecuteReader();
        while (reader.Read())
            if (
                reader.GetString(3) is var line
                && line.StartsWith("SCAN ", StringComparison.Ordinal)
                && names.Contains(line.Split(' ')[1])
                // A virtual table is asked by its index when it says what for; the newest of a table is one step.
                && !(line.Contains("VIRTUAL TABLE INDEX", StringComparison.Ordinal) && !line.EndsWith("INDEX 0:", StringComparison.Ordinal))
                && !Last().IsMatch(sql)
                // What it has is what is on the desk.
                && !line.EndsWith("INDEX documents_on_desk", StringComparison.Ordinal)
            )
                yield return line;
    }

    // Each method with one sample of what it takes; a search in all its ways.
    private static IEnumerable<object?[]> Arguments(MethodInfo method)
    {
        var parameters = method.GetParameters().Skip(1).ToArray();
        if (parameters.FirstOrDefault(p => p.ParameterType == typeof(RepositoryQuery)) is null)
        {
            yield return [.. parameters.Select(p => Sample(p.ParameterType, p.Name!))];
            yield break;
        }
        FieldCondition[] conditions =
        [
            .. Enum.GetValues<Look>().Select(how => new FieldCondition("vessel", FieldKind.Text, how, "vessel 1", "vessel 9")),
            new("tons", FieldKind.WholeNumber, Look.Between, "5", "900"),
            new("vessel", FieldKind.Text, Look.Holds, "x"),
        ];
        foreach (var type in new[] { null, "t" })
        foreach (var folder in new[] { "", "Calls/1" })
        foreach (var words in new[] { "", "vessel" })
        foreach (var sort in new[] { null, "tons" })
        foreach (
            FieldCondition[] asked in (FieldCondition[][])
                [
                    [],
                    .. conditions.Select(condition => new[] { condition }),
                    conditions,
                ]
        )
        {
            var query = new RepositoryQuery
            {
                TypeCode = type,
                Folder = folder,
                Anywhere = words,
                Sort = sort,
                Conditions = asked,
            };
            yield return
            [
                .. parameters.Select(p =>
                    p.ParameterType == typeof(RepositoryQuery) ? query
                    : p.Name == "before" ? null
                    : Sample(p.ParameterType, p.Name!)
                ),
            ];
        }
    }

    private static object? Sample(Type type, string name)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (type == typeof(string))
            return name is "typeCode" or "code" ? "t" : "x";
        if (type == typeof(long) || type == typeof(int))
            return Convert.ChangeType(5, type, System.Globalization.CultureInfo.InvariantCulture);
        if (type == typeof(bool))
            return true;
        if (type == typeof(DateTimeOffset))
            return new DateTimeOffset(2024, 3, 5, 0, 0, 0, TimeSpan.Zero);
        if (type.IsEnum)
            return Enum.GetValues(type).GetValue(0);
        if (type == typeof(object))
            return "x";
        if (typeof(Delegate).IsAssignableFrom(type))
            return Idle(type);
        if (type.IsArray)
            return type == typeof(string[]) ? new[] { "x" } : Array.CreateInstance(type.GetElementType()!, 0);
        if (type.IsGenericType && type.GetGenericArguments() is [var one] && type.IsAssignableFrom(typeof(List<>).MakeGenericType(one)))
        {
            var list = (System.Collections.IList)Activator.CreateInstance(typeof(List<>).MakeGenericType(one))!;
            if (Sample(one, name) is { } item)
                list.Add(item);
            return list;
        }
        if (
            type.IsGenericType
            && type.GetGenericArguments() is [var key, var value]
            && type.IsAssignableFrom(typeof(Dictionary<,>).MakeGenericType(key, value))
        )
            return Activator.CreateInstance(typeof(Dictionary<,>).MakeGenericType(key, value));
        if (type == typeof(DocumentType))
            return DocumentType.Empty("t", "T");
        if (type.IsValueType && !type.IsGenericType)
            return Activator.CreateInstance(type);
        var made = type.GetConstructors()
            .Where(k => k.GetParameters() is not [{ ParameterType: var copied }] || copied != type)
            .MaxBy(k => k.GetParameters().Length);
        if (made is null)
            return null;
        try
        {
            var sample = made.Invoke([.. made.GetParameters().Select(p => Sample(p.ParameterType, p.Name!))]);
            foreach (var text in type.GetProperties().Where(p => p.PropertyType == typeof(string) && p.CanWrite))
                text.SetValue(
                    sample,
                    text.GetValue(sample) is string { Length: > 0 } has ? has
                        : text.Name == "TypeCode" ? "t"
                        : "x"
                );
            return sample;
        }
        catch (TargetInvocationException)
        {
            return null;
        }
    }

    // Takes what it is given and does nothing.
    private static Delegate Idle(Type type)
    {
        var invoke = type.GetMethod("Invoke")!;
        return Expression
            .Lambda(
                type,
                Expression.Default(invoke.ReturnType),
                invoke.GetParameters().Select(p => Expression.Parameter(p.ParameterType)).ToArray()
            )
            .Compile();
    }

    private static void Fill(SqliteConnection c)
    {
        DesignStore.Add(c, DocumentType.Empty("t", "T"));
        using var writer = new FoundWriter(c, new FoundCache());
        for (var i = 1; i <= 3_000; i++)
        {
            c.Execute(
                "INSERT INTO documents (id, state, type_code, version, source_name, record, evidence, overrides, folder, name, "
                    + "place_key) VALUES ($id, $state, 't', 1, 's', '{}', '{}', '{}', $folder, $name, $key)",
                ("$id", i),
                ("$state", i % 100 == 0 ? "desk" : "filed"),
                ("$folder", $"Calls/{i % 40}"),
                ("$name", $"{i}.pdf"),
                ("$key", $"calls/{i}")
            );
            c.Execute(
                "INSERT INTO document_text (rowid, body, restricted) VALUES ($id, $body, '')",
                ("$id", i),
                ("$body", $"vessel {i % 90}")
            );
            c.Execute(
                "INSERT INTO value_history (document_id, field, before, after, how, at, who) VALUES ($id, 'f', '', '', '', '', '')",
                ("$id", i)
            );
            c.Execute(
                "INSERT INTO unique_keys (type_code, rule_id, key, document_id) VALUES ('t', 'r', $key, $id)",
                ("$key", $"{i}"),
                ("$id", i)
            );
            writer.Add(i, "t", [("vessel", $"vessel {i % 90}"), ("tons", (long)i)]);
            if (i % 100 != 0)
                FolderStore.Count(c, $"Calls/{i % 40}", 1);
        }
        FolderStore.CountType(c, "t", 2_970);
        for (var i = 0; i < 300; i++)
            LedgerStore.Append(c, new DateTimeOffset(2024, 3, 5, 0, 0, 0, TimeSpan.Zero), "who", "did", LedgerSubject.Document(i));
        c.Execute("ANALYZE");
    }

    [GeneratedRegex(@"^\s*(WITH|SELECT|UPDATE|DELETE|INSERT)\b", RegexOptions.IgnoreCase)]
    private static partial Regex Statement();

    [GeneratedRegex(
        @"\b(documents|document_text|unique_keys|pages|value_history|found_in|found_values|found_pieces|ledger|batch_files|moves|carried|left_rows|consequence_rows)\s+(?:AS\s+)?([a-z])\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Named();

    [GeneratedRegex(@"\$\w+")]
    private static partial Regex Parameter();

    [GeneratedRegex(@"^SELECT (coalesce\(\()?(max|min)\(|ORDER BY (seq|id|rowid)( DESC)? LIMIT 1\b", RegexOptions.IgnoreCase)]
    private static partial Regex Last();

    public void Dispose()
    {
        _db.Dispose();
        Directory.Delete(_folder, recursive: true);
    }
}
