using Microsoft.AspNetCore.Mvc;

namespace ClearLexicon.Web.Pages;

[ResponseCache(NoStore = true)]
[IgnoreAntiforgeryToken]
public sealed class ErrorModel : PlacePage
{
    public bool Denied { get; private set; }

    public void OnGet() => Say();

    public void OnPost() => Say();

    private void Say()
    {
        Denied = Request.Query.ContainsKey("ReturnUrl");
        if (Response.StatusCode < 400) Response.StatusCode = Denied ? 403 : 500;
    }
}
