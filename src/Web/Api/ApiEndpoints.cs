namespace ClearLexicon.Web.Api;
public static class ApiEndpoints
{
    public static void AddApi(this IServiceCollection services) { services.AddProblemDetails(); services.AddOpenApi(); }
    public static void MapApi(this WebApplication app) { }
}
