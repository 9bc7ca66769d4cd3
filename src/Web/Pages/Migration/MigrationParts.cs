using ClearLexicon.Services.Migration;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

/// <summary>A package that is taken over, or was.</summary>
/// <param name="One">The run.</param>
/// <param name="WhyNot">Why it cannot be taken over; null when it can.</param>
/// <param name="IsThere">Whether the package still lies there.</param>
public sealed record TakeoverPart(Run<PackageOrder> One, string? WhyNot, bool IsThere);

/// <summary>What has a package looked through.</summary>
/// <param name="Folder">Its folder.</param>
/// <param name="Says">What stands on it.</param>
public sealed record LookThroughPart(string Folder, string Says);
