using ClearLexicon.Services.Work;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

[ResponseCache(NoStore = true)]
[IgnoreAntiforgeryToken]
public sealed class ErrorModel : PlacePage
{
    public string Title { get; private set; } = "";

    public string Text { get; private set; } = "";

    public void OnGet() => Say();

    public void OnPost() => Say();

    private void Say()
    {
        var denied = Request.Query.ContainsKey("ReturnUrl") && HttpContext.Features.Get<IExceptionHandlerFeature>() is null;
        if (Response.StatusCode < 400)
            Response.StatusCode =
                denied ? 403
                : HttpContext.Features.Get<IExceptionHandlerFeature>() is null ? 404
                : 500;
        (Title, Text) =
            HttpContext.Features.Get<IExceptionHandlerFeature>()?.Error is { } failure && Failures.IsFromOutside(failure)
                ? ("This cannot be done now", Failures.InWords(failure))
                : Response.StatusCode switch
                {
                    400 => (
                        "The page could not read this",
                        "What was sent is not what this page expects. Nothing was changed; go back and try again."
                    ),
                    403 => ("You cannot open this page", "Your role does not include it. An administrator can change that."),
                    404 => ("There is no such page", "It may have been moved or removed in the meantime."),
                    405 => ("This cannot be done here", "The page does not accept what was sent. Nothing was changed."),
                    413 => ("This is too large", "More was sent than is taken at once. Nothing was changed."),
                    429 => ("Too many attempts", "Wait a minute, then try again."),
                    _ => (
                        "Something went wrong here",
                        "The server could not finish that. Nothing was changed. The details are in the server’s log."
                    ),
                };
    }
}
