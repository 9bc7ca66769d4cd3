using System.Security.Claims;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Forms;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace ClearLexicon.Web.Pages;

/// <summary>What every page has: the person, what just happened, and the posted texts as they were typed.</summary>
public abstract class PlacePage : PageModel
{
    /// <summary>Name of the person.</summary>
    public string Who => User.FindFirstValue(ClaimTypes.Name) ?? "";

    /// <summary>Whether the person sees restricted values.</summary>
    public bool SeesRestricted => Rights.SeesRestricted;

    /// <summary>What the person may see.</summary>
    public Rights Rights => field ??= User.Rights();

    /// <summary>Language of the messages the person reads.</summary>
    public string Language => field ??= HttpContext.RequestServices.GetRequiredService<Accounts>().LanguageOf(Who);

    /// <summary>What was just done.</summary>
    public string? Done { get; set; }

    /// <summary>Why something was not done.</summary>
    public string? Problem { get; set; }

    /// <summary>Key of the row that stays open.</summary>
    public string? Open { get; set; }

    /// <summary>The form as it was sent; empty when none was.</summary>
    public Form Posted => field ??= Request.HasFormContentType ? new Form(Request.Form) : new Form();

    /// <summary>What the address asks, read as a form is.</summary>
    public Form Queried => field ??= new Form(Request.Query);

    /// <summary>A posted text, unchanged; empty when it was not sent.</summary>
    public string Sent(string name) => Posted[name].Text;

    /// <summary>Posted texts of one name, such as ticked boxes.</summary>
    public IReadOnlyList<string> SentMany(string name) => [.. Posted.All(name).Distinct(StringComparer.Ordinal)];

    /// <summary>A posted whole number, or null.</summary>
    public int? SentNumber(string name) => int.TryParse(Sent(name).Trim(), out var n) ? n : null;

    /// <summary>A posted number in shares of a page.</summary>
    public double SentShare(string name) =>
        double.TryParse(Sent(name), System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : 0;

    /// <summary>
    /// Refuses a change once when the part that it is made of is not as this form was opened with; a form says that with
    /// <see cref="Seen.Of"/> in its blank <c>seen</c>.
    /// </summary>
    /// <param name="what">What the part is called.</param>
    /// <param name="subject">What the ledger calls it.</param>
    protected Func<T?, string?> AsSeen<T>(string what, string subject)
        where T : class =>
        part => Seen.Changed(Sent("seen"), part, what, () => HttpContext.RequestServices.GetRequiredService<Designs>().LastDone(subject));

    /// <summary>Says at which address what a posted form made stands from now on; scripts put it into the bar.</summary>
    protected void Standing(string address)
    {
        Response.Headers["HX-Push-Url"] = address;
        _standing = address;
    }

    /// <summary>Whether a script asks, which shows a part of the answer, or the browser by itself.</summary>
    protected bool ByScript => Request.Headers.ContainsKey("HX-Request");

    /// <summary>Without scripts the browser goes to where what was made stands, so that it can be looked at again.</summary>
    [NonHandler]
    public override void OnPageHandlerExecuted(PageHandlerExecutedContext context)
    {
        if (_standing is null || ByScript || context.Result is not PageResult)
            return;
        Response.Headers.Location = _standing;
        context.Result = new StatusCodeResult(StatusCodes.Status303SeeOther);
    }

    private string? _standing;

    /// <summary>Notes a result for showing.</summary>
    public void Note(Result result, string done)
    {
        if (result.Ok)
            Done = done;
        else
            Problem = result.Problem;
    }
}
