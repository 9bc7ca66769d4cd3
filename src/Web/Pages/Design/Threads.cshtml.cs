using System.Text.RegularExpressions;
using ClearLexicon.Core.Designs;
using ClearLexicon.Core.Designs.Threads;
using ClearLexicon.Core.Fields;
using ClearLexicon.Services;
using ClearLexicon.Services.Design;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace ClearLexicon.Web.Pages;

/// <summary>What the drawn threads need besides their places.</summary>
/// <param name="Drawing">Where everything stands.</param>
/// <param name="Followed">The end that is followed; -1 for none.</param>
/// <param name="Picture">Address of a page's picture, or the picture itself.</param>
/// <param name="Address">Address that follows an end; null for a drawing that stands alone.</param>
/// <param name="Style">Styles of a drawing that stands alone.</param>
/// <param name="Title">What a drawing that stands alone shows.</param>
public sealed record ThreadsView(
    ThreadDrawing Drawing,
    int Followed,
    Func<int, string> Picture,
    Func<string, string>? Address,
    string Style = "",
    string Title = ""
);

/// <summary>The threads of one type with one document: where each value comes from and what it leads to.</summary>
public sealed partial class ThreadsModel(Designs designs, Threads threads, IWebHostEnvironment environment) : PlacePage
{
    public DocumentType Type { get; private set; } = null!;

    public List<ThreadSubject> Subjects { get; private set; } = [];

    public WovenDocument Woven { get; private set; } = null!;

    public ThreadPicture Picture => Woven.Picture;

    /// <summary>Order of the design, and the one with the fewest crossings.</summary>
    public (ThreadOrder Design, ThreadOrder Fewest) Orders { get; private set; }

    public ThreadDrawing Drawing { get; private set; } = null!;

    /// <summary>Position of the end that is followed; -1 for none.</summary>
    public int Followed { get; private set; } = -1;

    public bool InDesignOrder => Request.Query["order"] == "design";

    public bool ShowsRules => Request.Query["rules"] != "no";

    public IActionResult OnGet(string code) => Load(code) ? Page() : NotFound();

    /// <summary>A page's picture without anything restricted.</summary>
    public IActionResult OnGetPicture(string code, int number) =>
        Choose(code) is { } subject && threads.Page(Type, subject, number) is { } png ? File(png, "image/png") : NotFound();

    /// <summary>The drawing as a file of its own, with its pictures, fonts and styles in it.</summary>
    public IActionResult OnGetSvg(string code)
    {
        if (!Load(code))
            return NotFound();
        var view = new ThreadsView(
            Drawing,
            Followed,
            n => $"data:image/png;base64,{Convert.ToBase64String(threads.Page(Type, Woven.Subject, n)!)}",
            null,
            Styles(),
            $"{Type.Name}: {Woven.Subject.Title}"
        );
        Response.Headers.ContentDisposition = $"attachment; filename=\"threads of {Type.Code}.svg\"";
        return new PartialViewResult
        {
            ViewName = "_Threads",
            ContentType = "image/svg+xml; charset=utf-8",
            ViewData = new ViewDataDictionary<ThreadsView>(ViewData, view),
        };
    }

    /// <summary>Address of this view with some of what it shows changed.</summary>
    public string With(string? follow = null, string? order = null, string? rules = null, string? handler = null)
    {
        var query = new List<string> { $"document={Woven.Subject.Key}" };
        if ((order ?? (InDesignOrder ? "design" : "")) is { Length: > 0 } o)
            query.Add($"order={o}");
        if ((rules ?? (ShowsRules ? "" : "no")) is { Length: > 0 } r)
            query.Add($"rules={r}");
        if ((follow ?? (Followed < 0 ? "" : IdOf(Picture.Ends[Followed]))) is { Length: > 0 } f)
            query.Add($"follow={Uri.EscapeDataString(f)}");
        if (handler is not null)
            query.Add($"handler={handler}");
        return $"/Design/Threads/{Type.Code}?{string.Join('&', query)}";
    }

    /// <summary>Id of an end in the page and in addresses.</summary>
    public static string IdOf(ThreadEnd end) => $"{end.Kind.ToString().ToLowerInvariant()}-{end.Key.Replace(' ', '-')}";

    /// <summary>An end in words.</summary>
    public static string InWords(ThreadEnd end) =>
        string.Concat(
            end.Kind switch
            {
                EndKind.Region => "Read for ",
                EndKind.Source => "From ",
                EndKind.Field => "Field ",
                EndKind.Piece => "In the path: ",
                _ => "Rule: ",
            },
            end.Label,
            end.Restricted ? ", restricted"
                : end.Value.Length > 0 ? $": {end.Value}"
                : end.Kind is EndKind.Field ? ", empty here"
                : "",
            end.Kind == EndKind.Rule
                ? end.Broken is null
                    ? ", holds"
                    : ", does not hold here"
                : "",
            end.NoSource is { } s ? $". Loose end: {s}" : "",
            end.NoUse is { } u ? $". Loose end: {u}" : ""
        );

    /// <summary>Where a loose end is tied.</summary>
    public (string Address, string Name) Repair(ThreadEnd end) =>
        end.Kind switch
        {
            EndKind.Piece => ($"/Design/Convention/{Type.Code}", "the convention"),
            EndKind.Source => ($"/Readers/Reader/{end.Key.Split(' ')[^1]}", "the reader"),
            EndKind.Rule => ($"/Design/Type/{Type.Code}#row-rule-{end.Key}", "the rule"),
            _ when Type.Find(end.Key) is { } field => ($"/Design/Type/{field.From ?? Type.Code}#row-{end.Key}", "the field"),
            _ => ($"/Design/Type/{Type.Code}", "the type"),
        };

    // The type and the document that is asked for; null when there is no such type.
    private ThreadSubject? Choose(string code)
    {
        if (designs.Find(code) is not { Draft.IsGroup: false } state)
            return null;
        Type = designs.Resolve(state.Draft);
        Subjects = threads.Subjects(Type);
        var asked = Request.Query["document"].ToString();
        return Subjects.FirstOrDefault(s => s.Key == asked) ?? Subjects[0];
    }

    private bool Load(string code)
    {
        if (Choose(code) is not { } subject)
            return false;
        Woven = threads.Weave(Type, subject, Who);
        Orders = (ThreadOrder.OfDesign(Picture), ThreadOrder.Fewest(Picture));
        Drawing = new ThreadDrawing(Woven, InDesignOrder ? Orders.Design : Orders.Fewest, ShowsRules);
        var follow = Request.Query["follow"].ToString();
        Followed = Picture.Ends.ToList().FindIndex(e => IdOf(e) == follow);
        return true;
    }

    // The colours stand in the first rule of the main style sheet; a file that stands alone takes them and its fonts along.
    private string Styles()
    {
        string Read(string path)
        {
            using var reader = new StreamReader(environment.WebRootFileProvider.GetFileInfo(path).CreateReadStream());
            return reader.ReadToEnd();
        }
        string Font(string family, string path)
        {
            using var stream = environment.WebRootFileProvider.GetFileInfo(path).CreateReadStream();
            using var bytes = new MemoryStream();
            stream.CopyTo(bytes);
            return $"@font-face {{ font-family: \"{family}\"; font-weight: 200 800; src: "
                + $"url(data:font/woff2;base64,{Convert.ToBase64String(bytes.ToArray())}) format(\"woff2\"); }}\n";
        }
        return Font("Atkinson Hyperlegible Next Variable", "lib/fonts/next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2")
            + Font("Atkinson Hyperlegible Mono Variable", "lib/fonts/mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2")
            + Tokens().Match(Read("css/clear-lexicon.css")).Value
            + Read("css/threads.css");
    }

    [GeneratedRegex(@":root\s*\{[^}]*\}")]
    private static partial Regex Tokens();
}
