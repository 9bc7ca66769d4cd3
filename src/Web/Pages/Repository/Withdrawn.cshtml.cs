using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Web.Pages;

/// <summary>Documents that were withdrawn from the repository, with the way back.</summary>
public sealed class WithdrawnModel(Withdrawals withdrawals) : PlacePage
{
    /// <summary>Most that are listed.</summary>
    public const int Listed = 500;

    public List<Withdrawal> Out { get; private set; } = [];

    public void OnGet() => Out = withdrawals.Out(Listed);
}
