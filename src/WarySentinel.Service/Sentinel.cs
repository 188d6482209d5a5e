using System.Globalization;
using Microsoft.AspNetCore.Connections;
using Serilog;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Audio;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Check;
using WarySentinel.Service.Files;
using WarySentinel.Service.Gates;
using WarySentinel.Service.Gateway;
using WarySentinel.Service.Insights;
using WarySentinel.Service.Letters;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Hosted;
using WarySentinel.Service.Orders;
using WarySentinel.Service.Passwords;
using WarySentinel.Service.People;
using WarySentinel.Service.Prices;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Redirects;
using WarySentinel.Service.SetUp;
using WarySentinel.Service.SiteFile;
using WarySentinel.Service.Sweep;
using WarySentinel.Service.Web;
using WarySentinel.Service.Web.Acme;
using WarySentinel.Storage;

namespace WarySentinel.Service;

/// <summary>Builds and runs the service: one process, two listeners, two pipelines that share nothing but the services.</summary>
public static class Sentinel
{
    private static readonly TimeSpan Settled = TimeSpan.FromSeconds(2);

    /// <summary>Runs until it is told to stop. Exit code 0, or 2 when it cannot start.</summary>
    public static async Task<int> RunAsync(string[] args)
    {
        try
        {
            NativeMemory.Bound();
            Language();
            using var quiet = new QuietStart();
            var (builder, options) = Configure(args);
            // By the time the service is put together the policy is read.
            var early = EarlyPolicy.ReadAsync(options);
            var app = Build(builder, options);
            await StartAsync(app, early);
            quiet.Dispose();
            using var tidying = new Tidying();
            await app.WaitForShutdownAsync();
            return 0;
        }
        catch (Exception fault) when (Reason(fault) is { } reason)
        {
            await Console.Error.WriteLineAsync("wary-sentinel: " + reason);
            return 2;
        }
        finally
        {
            await Log.CloseAndFlushAsync();
        }
    }

    /// <summary>What is written is read by programs, on whatever machine; only sentences follow their reader (<see cref="Reader"/>).</summary>
    private static void Language()
    {
        if (!Spelling.IsKnown)
        {
            throw new InvalidDataException(
                "ICU is missing, and with it the letters and the order of languages. Install it (Debian: apt install libicu72, or as it is named there), "
                + "and see that DOTNET_SYSTEM_GLOBALIZATION_INVARIANT is not set.");
        }

        CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
        CultureInfo.DefaultThreadCurrentUICulture = CultureInfo.CurrentUICulture = CultureInfo.GetCultureInfo("en");
    }

    /// <summary>Builds the service. Throws <see cref="InvalidDataException"/> when its settings are not right.</summary>
    public static WebApplication Build(string[] args, Action<WebApplicationBuilder>? adjust = null)
    {
        var (builder, options) = Configure(args, adjust);
        return Build(builder, options);
    }

    private static (WebApplicationBuilder Builder, ServiceOptions Options) Configure(string[] args, Action<WebApplicationBuilder>? adjust = null)
    {
        var builder = WebApplication.CreateSlimBuilder(new WebApplicationOptions { Args = args, ContentRootPath = AppContext.BaseDirectory });
        builder.Configuration.Sources.Clear();
        builder.Configuration.AddJsonFile(Path.Combine(Directory.GetCurrentDirectory(), "sentinel.json"), true, false).AddEnvironmentVariables()
            .AddCommandLine(args);
        adjust?.Invoke(builder);
        var options = builder.Configuration.GetSection("Wary").Get<ServiceOptions>() ?? new ServiceOptions();
        if (options.Fault() is { } fault)
        {
            throw new InvalidDataException(fault);
        }

        return (builder, options);
    }

    private static WebApplication Build(WebApplicationBuilder builder, ServiceOptions options)
    {
        builder.WebHost.UseKestrelHttpsConfiguration();
        builder.AddListeners(options).AddLogging();
        builder.Services.AddSingleton(options).AddStore(options).AddOwnRequests(options).AddRateLimits(options);
        builder.Services.AddAccess().AddPeople().AddLetters().AddPages().AddApiDocument();
        var app = builder.Build();
        var adminBuilder = ((IApplicationBuilder)app).New();
        app.Services.UseAdmin(adminBuilder);
        var admin = adminBuilder.Build();
        app.Use(next => http => http.Features.Get<AdminListener>() is not null ? admin(http)
            : http.Features.Get<RedirectListener>() is null ? next(http)
            : app.Services.GetRequiredService<AcmeChallenges>().For(http) is { } proof ? http.Response.WriteAsync(proof)
            : RedirectListener.LeadAsync(http, options.SiteUrl));
        if (options.HstsDays > 0)
        {
            var kept = string.Create(CultureInfo.InvariantCulture, $"max-age={options.HstsDays * 86_400L}");
            app.Use(next => http =>
            {
                if (http.Request.IsHttps)
                {
                    http.Response.Headers.StrictTransportSecurity = kept;
                }

                return next(http);
            });
        }

        app.Services.UseSite(app);
        _ = Task.Run(() => AskOnceAsync(app.Services, admin, options));
        return app;
    }

    /// <summary>Has the endpoints put together while the policy is read: the first request would wait for it.</summary>
    private static async Task AskOnceAsync(IServiceProvider services, RequestDelegate admin, ServiceOptions options)
    {
        var log = services.GetRequiredService<ILoggerFactory>().CreateLogger("Sentinel");
        var http = new DefaultHttpContext { RequestServices = services };
        http.Features.Set(AdminListener.Mark);
        (http.Request.Method, http.Request.Host, http.Request.Path) = (HttpMethods.Get, new HostString(new Uri(options.AdminUrl).Authority), "/health/live");
        try
        {
            await admin(http);
        }
        catch (Exception fault)
        {
            // Whoever asks first will be told.
            log.LogDebug(fault, "Asking once went wrong");
        }
    }

    /// <summary>Brings the store up to date, reads the policy, and starts listening.</summary>
    /// <param name="app">The service.</param>
    /// <param name="early">The policy as it is being read already; null to read it now.</param>
    public static async Task StartAsync(WebApplication app, Task<StoredPolicy?>? early = null)
    {
        var store = app.Services.GetRequiredService<Store>();
        var log = app.Services.GetRequiredService<ILoggerFactory>().CreateLogger("Sentinel");
        var began = System.Diagnostics.Stopwatch.StartNew();
        var warming = Task.Run(store.Warm);
        await store.MigrateAsync(said => log.LogInformation("{Said}", said));
        log.LogDebug("The tables are as they should be after {Milliseconds} ms", began.ElapsedMilliseconds);
        // Before anything is read: what changes from here on is heard of.
        await app.Services.GetRequiredService<FeedFollower>().BeginAsync();
        log.LogDebug("The feed is found after {Milliseconds} ms", began.ElapsedMilliseconds);
        await app.Services.GetRequiredService<PolicyHolder>().BeginAsync(early is null ? null : await early, CancellationToken.None);
        await warming; log.LogDebug("The policy is read and compiled after {Milliseconds} ms", began.ElapsedMilliseconds);
        var options = app.Services.GetRequiredService<ServiceOptions>();
        await app.StartAsync();
        log.LogDebug("Listening after {Milliseconds} ms", began.ElapsedMilliseconds);
        _ = SortAsync(app.Services.GetRequiredService<PolicyHolder>());
        log.LogInformation("Guarding {Site}, console at {Admin}", options.SiteUrl, options.AdminUrl);
        if (app.Services.GetRequiredService<PolicyHolder>().Faults is { Count: > 0 } faults)
        {
            log.LogError("{Count} things that are stored cannot be read; what they covered is closed. See {Admin}, or wary status", faults.Count,
                options.AdminUrl);
        }

        if (!await store.IsRoleHeldAsync("owner"))
        {
            log.LogWarning("No owner yet: open {Admin}/first-owner?code={Code}", options.AdminUrl, app.Services.GetRequiredService<SetUpCode>().Value);
        }
    }

    /// <summary>The first board would wait for the order of titles; it is made once those who waited for the start are served.</summary>
    private static async Task SortAsync(PolicyHolder policies)
    {
        await Task.Delay(Settled);
        var policy = policies.Current;
        policy.Graph.RanksIn(policy.Settings.Language);
    }

    private static void UseAdmin(this IServiceProvider services, IApplicationBuilder admin)
    {
        var options = services.GetRequiredService<ServiceOptions>();
        if (options.TrustedProxies.Length > 0)
        {
            admin.UseForwardedHeaders(Hosting.Forwarding(options));
        }

        admin.UseRequestLocalization(Reader.Languages);
        admin.UseMiddleware<HostGuard>(options.AdminUrl);
        admin.UseMiddleware<AdminGuard>();
        admin.UseRouting();
        admin.UseRateLimiter();
        admin.UseMiddleware<Admission>();
        admin.UseEndpoints(endpoints =>
        {
            endpoints.MapGet("/health/live", () => Results.Text("live"));
            endpoints.MapGet("/health/ready", async (Readiness readiness) => await readiness.FaultAsync() is { } fault ? Results.Text(fault, statusCode: 503)
                : Results.Text("ready"));
            services.GetRequiredService<AuthZenEndpoints>().Map(endpoints);
            endpoints.MapOpenApi("/api/{documentName}/openapi.json");
            services.GetRequiredService<DiscoverEndpoints>().Map(endpoints.MapGroup("/api/v1"));
            services.GetRequiredService<OrderImport>().Map(endpoints.MapGroup("/api/v1"));
            services.GetRequiredService<FiguresEndpoints>().Map(endpoints.MapGroup("/api/v1"));
            services.GetRequiredService<PassImport>().Map(endpoints.MapGroup("/api/v1"));
            services.GetRequiredService<TodayEndpoint>().Map(endpoints.MapGroup("/api/v1"));
            endpoints.MapGroup("/api/v1").MapSentLinks();
            endpoints.MapGroup("/api/v1").MapConsoleAccounts().MapSite().MapSettings().MapItems().MapGates().MapPasswords().MapPasses().MapMembers()
                .MapRedirects().MapEntries().MapTexts().MapVisitorPages().MapSections().MapHostedPages()
                .MapDecisions().MapBoard().MapSweeps().MapApply().MapSetUp().MapLetters().MapOrders().MapFulfilment().MapAreas(options).MapShows(options)
                .MapPrices().MapBackup();
        });
        admin.UseConsole(options);
    }

    private static void UseSite(this IServiceProvider services, WebApplication site)
    {
        var options = services.GetRequiredService<ServiceOptions>();
        if (options.TrustedProxies.Length > 0)
        {
            site.UseForwardedHeaders(Hosting.Forwarding(options));
        }

        if (options.SiteIsTls)
        {
            // TLS ends in front of us; what visitors type says so, whatever this hop speaks.
            site.Use((http, next) =>
            {
                http.Request.Scheme = "https";
                return next(http);
            });
        }

        site.UseMiddleware<HostGuard>(options.SiteUrl);
        var check = services.GetRequiredService<CheckEndpoint>();
        var checkPath = options.MachinePrefix + "/check";
        site.Use(next => http => http.Request.Path.Value == checkPath ? check.InvokeAsync(http) : next(http));
        // The shop's own code asks from its own network; to everybody else these addresses belong to the site.
        var decisions = services.GetRequiredService<AuthZenEndpoints>();
        site.MapWhen(
            http => AuthZenEndpoints.IsAsked(http.Request.Path.Value!) && options.IsOwnNetwork(http.Connection.RemoteIpAddress),
            own =>
            {
                own.UseMiddleware<AdminGuard>();
                own.UseRouting();
                own.UseMiddleware<Admission>();
                own.UseEndpoints(decisions.Map);
            });
        var (pages, unlocks, parts) = (services.GetRequiredService<AccountPages>(), services.GetRequiredService<UnlockPages>(),
            services.GetRequiredService<PartsEndpoint>());
        site.UseOwnAddresses(services);
        site.MapWhen(
            http => RequestPath.IsUnder(http.Request.Path.Value!, options.AccountPrefix)
            || RequestPath.IsUnder(http.Request.Path.Value!, options.MachinePrefix),
            own =>
            {
                own.UseMiddleware<SiteGuard>();
                own.UsePageAssets(options.AccountPrefix + "/assets");
                own.UseRouting();
                own.UseRateLimiter();
                own.UseMiddleware<Admission>();
                own.UsePageDress(services);
                own.UseEndpoints(endpoints =>
                {
                    pages.Map(endpoints);
                    unlocks.Map(endpoints);
                    services.GetRequiredService<ThanksPages>().Map(endpoints);
                    services.GetRequiredService<FolderPages>().Map(endpoints);
                    services.GetRequiredService<FeedPages>().Map(endpoints);
                    services.GetRequiredService<ListenPages>().Map(endpoints);
                    services.GetRequiredService<MailTrial>().Map(endpoints);
                    services.GetRequiredService<HostedPages>().Map(endpoints);
                    services.GetRequiredService<HostedSearch>().Map(endpoints);
                    services.GetRequiredService<HookEndpoint>().Map(endpoints, options.MachinePrefix);
                    endpoints.MapGet(options.MachinePrefix + "/jwks.json", (OriginToken tokens) => tokens.KeySet());
                    endpoints.MapPost(options.MachinePrefix + "/parts", parts.InvokeAsync).Takes(PartsEndpoint.MostBodyBytes);
                });
            });
        site.Run(services.GetRequiredService<GatewayProxy>().InvokeAsync);
    }

    private static string? Reason(Exception fault) => fault switch
    {
        InvalidDataException => fault.Message,
        IOException { InnerException: AddressInUseException } => $"{fault.Message.TrimEnd('.')}. Stop what listens there, or choose another in SiteListen or "
            + "AdminListen.",
        Microsoft.Data.Sqlite.SqliteException => "The database cannot be opened: " + fault.Message,
        Npgsql.NpgsqlException => "PostgreSQL cannot be reached: " + fault.Message,
        FormatException => "The secret is not Base64.",
        UnauthorizedAccessException => fault.Message,
        _ => null,
    };
}
