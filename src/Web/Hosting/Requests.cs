using System.Reflection;
using System.Threading.RateLimiting;
using ClearLexicon.Services;
using ClearLexicon.Storage;
using ClearLexicon.Web.Api;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;

namespace ClearLexicon.Web.Hosting;

/// <summary>Requests that ask for too much, or are not what a page can read, are answered before anything is done with them.</summary>
public static class Requests
{
    /// <summary>Most bytes of a body before the sender is known.</summary>
    public const long BytesBeforeSignIn = 64 * 1024;

    /// <summary>Most posts to the sign-in and set-up pages from one address in a minute.</summary>
    public const int SignInsPerMinute = 120;

    /// <summary>Bounds posts to the pages that are open to anybody.</summary>
    public static void AddSignInLimit(this IServiceCollection services) =>
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            o.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(context =>
                HttpMethods.IsPost(context.Request.Method)
                && (context.Request.Path.StartsWithSegments("/SignIn") || context.Request.Path.StartsWithSegments("/FirstAdministrator"))
                    ? RateLimitPartition.GetFixedWindowLimiter(
                        context.Connection.RemoteIpAddress?.ToString() ?? "",
                        _ => new FixedWindowRateLimiterOptions { PermitLimit = SignInsPerMinute, Window = TimeSpan.FromMinutes(1) }
                    )
                    : RateLimitPartition.GetNoLimiter("")
            );
        });

    /// <summary>Before the sender is known, a body is small.</summary>
    public static void UseSmallBodiesBeforeSignIn(this IApplicationBuilder app) =>
        app.Use(
            async (context, next) =>
            {
                var known =
                    context.User.Identity?.IsAuthenticated == true
                    || context.Request.Headers.ContainsKey("Authorization")
                        && (await context.AuthenticateAsync(TokenHandler.SchemeName)).Succeeded;
                if (!known)
                {
                    if (context.Request.ContentLength > BytesBeforeSignIn)
                    {
                        context.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
                        return;
                    }
                    if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
                        limit.MaxRequestBodySize = BytesBeforeSignIn;
                }
                await next();
            }
        );

    /// <summary>A form that cannot be read is answered as such, whatever page it is for.</summary>
    public static void UseReadableForms(this IApplicationBuilder app) =>
        app.Use(
            async (context, next) =>
            {
                var request = context.Request;
                if (HttpMethods.IsPost(request.Method) && !request.Path.StartsWithSegments("/api"))
                {
                    try
                    {
                        if (request.HasFormContentType)
                            await request.ReadFormAsync(context.RequestAborted);
                        else if (request.ContentLength is > 0 || request.Headers.TransferEncoding.Count > 0)
                            throw new InvalidDataException("The body is not a form.");
                        else
                            request.Form = FormCollection.Empty;
                    }
                    // A form that breaks off is told by the reader as the end of its stream.
                    catch (Exception e) when (e is InvalidDataException || e is IOException && e is not BadHttpRequestException)
                    {
                        context.Response.StatusCode = StatusCodes.Status400BadRequest;
                        return;
                    }
                    catch (BadHttpRequestException e)
                    {
                        context.Response.StatusCode = e.StatusCode;
                        return;
                    }
                }
                await next();
            }
        );
}

/// <summary>Every file that a page gives out is noted in the ledger.</summary>
internal sealed class ExportNotes(Ledger ledger) : IAlwaysRunResultFilter
{
    public void OnResultExecuting(ResultExecutingContext context)
    {
        if (context.Result is FileResult { FileDownloadName: { Length: > 0 } name })
            ledger.Exported(
                context.HttpContext.User.Identity?.Name ?? "",
                name,
                new LedgerSubject(SubjectKind.Records, context.HttpContext.Request.Path)
            );
    }

    public void OnResultExecuted(ResultExecutedContext context) { }
}

/// <summary>An empty blank is an empty text wherever null is not expected; the framework would bind it to null.</summary>
internal sealed class EmptyTexts : IDisplayMetadataProvider
{
    private static readonly NullabilityInfoContext Nullability = new();

    public void CreateDisplayMetadata(DisplayMetadataProviderContext context)
    {
        if (context.Key.ModelType != typeof(string))
            return;
        lock (Nullability)
            if (
                (
                    context.Key.PropertyInfo is { } property ? Nullability.Create(property)
                    : context.Key.ParameterInfo is { } parameter ? Nullability.Create(parameter)
                    : null
                ) is
                { WriteState: NullabilityState.NotNull }
            )
                context.DisplayMetadata.ConvertEmptyStringToNull = false;
    }
}

/// <summary>A page handler is not called without a value that it cannot do without.</summary>
internal sealed class GivenValues : IPageFilter
{
    private static readonly NullabilityInfoContext Nullability = new();

    public void OnPageHandlerSelected(PageHandlerSelectedContext context) { }

    public void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        foreach (var parameter in context.HandlerMethod?.Parameters ?? [])
            if (!context.HandlerArguments.TryGetValue(parameter.Name, out var value) || value is null)
                if (Needed(parameter.ParameterInfo))
                {
                    context.Result = new StatusCodeResult(StatusCodes.Status400BadRequest);
                    return;
                }
    }

    public void OnPageHandlerExecuted(PageHandlerExecutedContext context) { }

    private static bool Needed(ParameterInfo parameter)
    {
        if (parameter.HasDefaultValue || parameter.ParameterType.IsValueType)
            return false;
        lock (Nullability)
            return Nullability.Create(parameter).WriteState == NullabilityState.NotNull;
    }
}
