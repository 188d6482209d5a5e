using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>Pages of ours at addresses of their own: they are served there, and the usual address leads there.</summary>
internal static class OwnAddresses
{
    /// <summary>Serves them. On the path of every request: where no page has moved, one look at a list.</summary>
    public static void UseOwnAddresses(this IApplicationBuilder site, IServiceProvider services)
    {
        var (policies, options) = (services.GetRequiredService<PolicyHolder>(), services.GetRequiredService<ServiceOptions>());
        site.Use(next => http =>
        {
            var policy = policies.Current;
            var (book, request) = (PageBook.Of(policy), http.Request);
            if (book.All.Count == 0)
            {
                return next(http);
            }

            var path = request.Path.Value!;
            if (book.PathAt(path, policy.Settings.Paths) is { } meant)
            {
                request.Path = options.AccountPrefix + meant;
                return next(http);
            }

            if (RequestPath.IsUnder(path, options.AccountPrefix) && VisitorPages.At(path[options.AccountPrefix.Length..]) is var (page, more))
            {
                if (!book.Has(page.Key))
                {
                    // Nothing of ours stands at this path, which gives the page of what is not there.
                    request.Path = options.AccountPrefix + "/not-found";
                }
                else if (book.Find(page.Key).Address is { } own && (HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method)))
                {
                    PageRequests.See(http, new PathString(own + more).ToUriComponent() + request.QueryString);
                    return Task.CompletedTask;
                }
            }

            return next(http);
        });
    }
}
