using System.Net;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.AspNetCore.Server.Kestrel.Core;
using Microsoft.Extensions.DependencyInjection.Extensions;
using Microsoft.Extensions.FileProviders;
using Microsoft.Extensions.Options;
using Microsoft.OpenApi;
using Serilog;
using Serilog.Events;
using WarySentinel.Contract.Check;
using WarySentinel.Contract.People;
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
using WarySentinel.Service.SiteFile;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Redirects;
using WarySentinel.Service.SetUp;
using WarySentinel.Service.Sweep;
using WarySentinel.Service.Web;
using WarySentinel.Service.Web.Acme;
using WarySentinel.Storage;

namespace WarySentinel.Service;

/// <summary>Marks a connection that came in on the admin listener. Nothing that a peer sends can set it.</summary>
public sealed class AdminListener
{
    /// <summary>The one mark.</summary>
    public static readonly AdminListener Mark = new();
}

/// <summary>Registers what the service is made of, a line a feature.</summary>
internal static class Hosting
{
    private const string TokenScheme = "token";

    public static WebApplicationBuilder AddLogging(this WebApplicationBuilder builder)
    {
        builder.Services.AddSerilog(log => log
            .MinimumLevel.Is(builder.Configuration["Wary:LogLevel"] is { } level && Enum.TryParse<LogEventLevel>(level, true, out var parsed) ? parsed
            : LogEventLevel.Information)
            .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
            // Otherwise every request begins a scope and an activity that nobody reads.
            .MinimumLevel.Override("Microsoft.AspNetCore.Hosting.Diagnostics", LevelAlias.Off)
            // Whoever starts it is told in one line why it could not.
            .MinimumLevel.Override("Microsoft.Extensions.Hosting.Internal.Host", LevelAlias.Off)
            // The gateway says itself, in one line, when the origin fails.
            .MinimumLevel.Override("Yarp", LogEventLevel.Error)
            // Anti-forgery failures are answered with a fresh form.
            .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Fatal)
            .Enrich.With<OneLine>()
            .WriteTo.Console(outputTemplate: "{Timestamp:yyyy-MM-ddTHH:mm:ss.fffZ} {Level:u3} {SourceContext:l} {Message:l}{Fault:l}{NewLine}",
            formatProvider: System.Globalization.CultureInfo.InvariantCulture));
        return builder;
    }

    /// <summary>Opens the store that the settings name.</summary>
    public static Store OpenStore(ServiceOptions options, TimeProvider time)
    {
        DataFolder.Guard(options);
        return Store.Open(options.Provider, ConnectionOf(options), time);
    }

    /// <summary>Where the settings say that the store is.</summary>
    public static string ConnectionOf(ServiceOptions options) => options.Provider == "sqlite" && options.Connection.Length == 0
        ? "Data Source=" + Path.Combine(options.Data, "sentinel.db") : options.Connection;

    public static IServiceCollection AddStore(this IServiceCollection services, ServiceOptions options)
    {
        services.TryAddSingleton(TimeProvider.System);
        services.AddSingleton(provider => OpenStore(options, provider.GetRequiredService<TimeProvider>()));
        services.AddSingleton<IConfigureOptions<KeyManagementOptions>>(provider => new ConfigureOptions<KeyManagementOptions>(
            keys =>
            {
                var sealing = new KeySealing(provider.GetRequiredService<Secrets>());
                keys.XmlEncryptor = sealing;
                keys.XmlRepository =
                    new KeysInStore(provider.GetRequiredService<Store>(), sealing, provider.GetRequiredService<ILogger<KeysInStore>>());
            }));
        services.AddDataProtection().SetApplicationName("wary-sentinel");
        return services;
    }

    public static IServiceCollection AddAccess(this IServiceCollection services)
    {
        services.AddSingleton<PolicyHolder>().AddSingleton<SurroundingsReader>().AddSingleton<CheckEndpoint>()
            .AddSingleton<OriginToken>().AddSingleton<OriginKnowledge>().AddSingleton<GatewayProxy>()
            .AddSingleton<SharedPasswords>().AddSingleton<Secrets>()
            .AddSingleton<Viewpoints>().AddSingleton<ViewLinks>().AddSingleton<Questions>().AddSingleton<BulkEndpoint>().AddSingleton<Crawlers>()
            .AddSingleton<AuthZenEndpoints>().AddSingleton<TodayEndpoint>().AddSingleton<DiscoverEndpoints>().AddSingleton<ReadYamlItems>((text,
                reading, stop) =>
            {
                var (file, faults) = SiteFileReader.Read(text, true, reading, stop);
                return (file.Items ?? [], faults);
            });
        services.AddSingleton<OriginConnection>().AddSingleton<Outbound>().AddSingleton<Readiness>().AddSingleton<DeadAddresses>().AddSingleton<EntryDesk>();
        services.TryAddSingleton<INameLookup, DnsLookup>();
        services.AddSingleton<FeedFollower>().AddSingleton<Leases>().AddSingleton<Hearsay>()
            .AddHostedService(provider => provider.GetRequiredService<FeedFollower>()).AddHostedService<BellRinger>().AddHostedService<PinKeeper>()
            .AddHostedService<OriginWatch>();
        services.AddHttpForwarder();
        return services;
    }

    public static IServiceCollection AddPeople(this IServiceCollection services) =>
        services.AddSingleton<SessionCache>().AddSingleton<Sessions>().AddSingleton<VisitorReader>().AddSingleton<PasswordHashing>()
            .AddSingleton<KnownBrowsers>().AddSingleton<SignIn>().AddSingleton<BasicCredentials>()
            .AddSingleton<PassKeeper>().AddSingleton<IPasses>(s => s.GetRequiredService<PassKeeper>()).AddSingleton<PassDesk>().AddSingleton<PassImport>()
            .AddSingleton<CallerReader>().AddSingleton<ReadCaller>(provider => provider.GetRequiredService<CallerReader>().ReadAsync)
            .AddSingleton<MemberService>()
            .AddSingleton(new Core.People.PasswordRules(PasswordJudge.StrengthOf)).AddSingleton<MemberLinks>().AddSingleton<Invitations>()
            .AddSingleton<Unsubscribing>().AddSingleton<UnprovedAccounts>().AddSingleton<SearchIndex>().AddSingleton<PendingUploads>()
            .AddSingleton<JoinDesk>().AddSingleton<RequestDesk>().AddSingleton<FormSeals>().AddSingleton<Previews>().AddSingleton<SamplePages>()
            .AddSingleton<MailDomains>()
            .AddSingleton<SetUpCode>().AddSingleton<FirstOwner>().AddSingleton<PeopleLane>()
            .AddSingleton<Granting>().AddSingleton<SharedTries>().AddSingleton<Organisations>()
            .AddSingleton<BulkMembers>().AddSingleton<ImportMembers>().AddSingleton<ExportMembers>().AddSingleton<IBulkAct, BulkGive>()
            .AddSingleton<IBulkAct, BulkEnd>().AddSingleton<IBulkAct>(new BulkStatus("suspend", Core.People.MemberStatus.Suspended))
            .AddSingleton<IBulkAct>(new BulkStatus("reinstate", Core.People.MemberStatus.Active)).AddSingleton<IBulkAct, BulkSignOut>()
            .AddSingleton<IBulkAct, BulkInvite>();

    public static IServiceCollection AddLetters(this IServiceCollection services)
    {
        services.AddSingleton<Envelopes>().AddSingleton<LetterDesk>().AddSingleton<ILetters>(provider => provider.GetRequiredService<LetterDesk>())
            .AddSingleton<TellMembers>()
            .AddSingleton<IBulkAct>(provider => provider.GetRequiredService<TellMembers>())
            .AddSingleton<IMemberLetters>(provider => provider.GetRequiredService<TellMembers>())
            .AddSingleton<Postman>()
            .AddSingleton<LetterPaper>().AddSingleton<Bouncing>().AddSingleton<BounceBox>().AddSingleton<MailTest>()
            .AddSingleton<SweepRunner>().AddSingleton<LookTaking>().AddSingleton<AcmeChallenges>().AddSingleton<AcmeDesk>()
            .AddSingleton<MailTrial>().AddSingleton<SetUpCheck>().AddSingleton<Housekeeping>().AddSingleton<Jobs>();
        services.AddSingleton<OrderDesk>().AddSingleton<OrderIntake>().AddSingleton<OrderRound>().AddSingleton<HookEndpoint>().AddSingleton<ThanksPages>()
            .AddSingleton<OrderImport>().AddSingleton<FiguresEndpoints>().AddSingleton<PlanReminders>().AddSingleton<IMemberOrders, MemberOrders>()
            .AddSingleton<IPlanSales, PlanSales>().AddSingleton<IdlePlans>()
            .AddSingleton<IIdlePlans>(s => s.GetRequiredService<IdlePlans>()).AddSingleton<IFirstUse>(s => s.GetRequiredService<IdlePlans>())
            .AddSingleton<OrderBell>()
            .AddSingleton<CouponDesk>().AddSingleton<IOffers>(s => s.GetRequiredService<CouponDesk>())
            .AddSingleton<ICoupons>(s => s.GetRequiredService<CouponDesk>()).AddSingleton<CartGuard>()
            .AddSingleton<AreaShelf>().AddSingleton<AreaFolder>().AddSingleton<IFolders, Folders>().AddSingleton<FolderPages>()
            .AddSingleton<ItemDoor>()
            .AddSingleton<ShowShelf>().AddSingleton<IShows>(s => s.GetRequiredService<ShowShelf>()).AddSingleton<FeedReaders>().AddSingleton<FeedPages>()
            .AddSingleton<ListenPages>().AddSingleton<IMemberFeeds, MemberFeeds>()
            .AddHostedService(provider => provider.GetRequiredService<OrderBell>());
        services.AddHostedService(provider => provider.GetRequiredService<Jobs>()).AddHostedService<PostBell>();
        return services.AddJob<SharedPasswords>("rotation", true, passwords => passwords.RotateDueAsync, passwords => passwords.IsRotationDueAsync)
            .AddJob<SweepRunner>("sweep-schedule", true, sweeps => sweeps.RunDueAsync, sweeps => sweeps.IsDueAsync)
            .AddJob<Postman>("letters-urgent", false, postman => stop => postman.SendDueAsync(true, stop))
            .AddJob<Postman>("letters", false, postman => stop => postman.SendDueAsync(false, stop))
            .AddJob<BounceBox>("bounces", true, reports => reports.RunDueAsync, reports => reports.IsDueAsync)
            .AddJob<PendingUploads>("uploads", true, uploads => uploads.RunDueAsync, uploads => uploads.IsDueAsync)
            .AddJob<UnprovedAccounts>("unproved", true, accounts => accounts.RunDueAsync, accounts => accounts.IsDueAsync)
            .AddJob<SearchIndex>("search-index", false, index => index.RunDueAsync)
            .AddJob<PlanReminders>("plan-reminders", true, reminders => reminders.RunDueAsync, reminders => reminders.IsDueAsync)
            .AddJob<OrderRound>("orders", true, round => round.RunDueAsync, round => round.IsDueAsync)
            .AddJob<AcmeDesk>("certificates", false, desk => desk.RunDueAsync)
            .AddJob<Housekeeping>("housekeeping", true, house => house.RunDueAsync, house => house.IsDueAsync);
    }

    private static IServiceCollection AddJob<T>(
        this IServiceCollection services, string name, bool alone, Func<T, Func<CancellationToken, Task>> work,
        Func<T, Func<CancellationToken, Task<bool>>>? isDue = null)
        where T : notnull => services.AddSingleton(provider =>
        {
            var room = provider.GetRequiredService<T>();
            return new Job(name, alone, work(room), isDue?.Invoke(room));
        });

    public static IServiceCollection AddPages(this IServiceCollection services)
    {
        services.AddSingleton<SiteFaults>();
        services.AddSingleton<ISitePages, SitePages>().AddSingleton<SiteSurround>().AddSingleton<Refusals>().AddSingleton<UnlockPages>()
            .AddSingleton<PartsEndpoint>().AddSingleton<AccountOverview>().AddSingleton<JoinPages>()
            .AddSingleton<OrganisationPages>().AddSingleton<Entrance>().AddSingleton<PasswordPages>().AddSingleton<LinkPages>()
            .AddSingleton<CodePages>().AddSingleton<LetterWishPages>().AddSingleton<RegisterPages>().AddSingleton<RequestPages>().AddSingleton<ProfilePages>()
            .AddSingleton<TermsPages>().AddSingleton<AgreePages>().AddSingleton<DirectoryPages>().AddSingleton<TermsAsked>()
            .AddSingleton<HostedPages>().AddSingleton<HostedSearch>().AddSingleton<HostedDesk>().AddSingleton<OwnGates>()
            .AddSingleton<AccountPages>().AddRazorComponents();
        // Letters of every script as they are: an escape of each would make a page three times as long.
        services.AddSingleton(System.Text.Encodings.Web.HtmlEncoder.Create(System.Text.Unicode.UnicodeRanges.All));
        services.AddAntiforgery();
        services.AddOptions<Microsoft.AspNetCore.Antiforgery.AntiforgeryOptions>().Configure<ServiceOptions>((forgery, options) =>
        {
            forgery.Cookie.Name = AntiforgeryCookie.Name;
            forgery.Cookie.HttpOnly = true;
            forgery.Cookie.SameSite = SameSiteMode.Lax;
            forgery.Cookie.Path = "/";
            forgery.Cookie.SecurePolicy = options.SiteIsTls ? CookieSecurePolicy.Always : CookieSecurePolicy.None;
            forgery.SuppressXFrameOptionsHeader = true;
        });
        return services;
    }

    public static IServiceCollection AddApiDocument(this IServiceCollection services)
    {
        services.ConfigureHttpJsonOptions(json =>
        {
            json.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
            json.SerializerOptions.RespectNullableAnnotations = true;
        });
        services.AddOpenApi("v1", document =>
        {
            document.ShouldInclude = description => description.RelativePath?.StartsWith("api/v1", StringComparison.Ordinal) == true;
            document.AddDocumentTransformer((api, _, _) =>
            {
                api.Info.Title = "Wary Sentinel";
                api.Info.Version = SiteEndpoints.Version;
                api.Servers?.Clear();
                var parts = api.Components ??= new OpenApiComponents();
                parts.SecuritySchemes ??= new Dictionary<string, IOpenApiSecurityScheme>();
                parts.SecuritySchemes[TokenScheme] = new OpenApiSecurityScheme { Type = SecuritySchemeType.Http, Scheme = "bearer" };
                return Task.CompletedTask;
            });
            // What a call needs: a bearer token with that scope (OpenAPI 3.1 §4.8.30), or a console session of somebody who has it.
            document.AddOperationTransformer((operation, context, _) =>
            {
                if (context.Description.ActionDescriptor.EndpointMetadata.OfType<NeedsScope>().FirstOrDefault() is { } needed)
                {
                    operation.Security =
                        [new OpenApiSecurityRequirement { [new OpenApiSecuritySchemeReference(TokenScheme, context.Document)] = [needed.Scope] }];
                }

                return Task.CompletedTask;
            });
            // What stands in an address is written as the rest of the API is; several of a name may be none.
            document.AddOperationTransformer((operation, _, _) =>
            {
                foreach (var asked in (operation.Parameters ?? []).OfType<OpenApiParameter>().Where(p => p.In == ParameterLocation.Query))
                {
                    asked.Name = System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(asked.Name ?? "");
                    asked.Required &= asked.Schema?.Type?.HasFlag(JsonSchemaType.Array) != true;
                }

                return Task.CompletedTask;
            });
            // A form with a file and who is told of it (RFC 7578).
            document.AddOperationTransformer(ImportBody.DescribeAsync);
            // A secret is a text to whoever reads it.
            document.CreateSchemaReferenceId = type => type.Type == typeof(Contract.SecretText) ? null : OpenApiOptions.CreateDefaultSchemaReferenceId(type);
            document.AddSchemaTransformer((schema, context, _) =>
            {
                if (context.JsonTypeInfo.Type == typeof(Contract.SecretText))
                {
                    schema.Type = JsonSchemaType.String | (context.JsonPropertyInfo?.IsGetNullable == false ? 0 : JsonSchemaType.Null);
                }

                return Task.CompletedTask;
            });
            // What a caller may leave out is not required of it; what we answer is always there, if as null.
            document.AddSchemaTransformer((schema, context, _) =>
            {
                var name = context.JsonTypeInfo.Type.Name;
                if (schema.Properties is { Count: > 0 }
                    && (name.EndsWith("Draft", StringComparison.Ordinal) || name is nameof(Question) or nameof(Credentials)))
                {
                    foreach (var property in context.JsonTypeInfo.Properties.Where(p => p.IsGetNullable))
                    {
                        schema.Required?.Remove(property.Name);
                    }
                }

                return Task.CompletedTask;
            });
        });
        return services;
    }

    public static void UseConsole(this IApplicationBuilder admin, ServiceOptions options)
    {
        admin.MapWhen(http => http.Request.Path.StartsWithSegments("/api"),
            api => api.Run(http => Core.Problem.Of(Core.ProblemKind.NotFound, "not-found").ToHttp().ExecuteAsync(http)));
        var folder = options.Console.Length > 0 ? Path.GetFullPath(options.Console) : Path.Combine(AppContext.BaseDirectory, "wwwroot");
        if (!Directory.Exists(folder))
        {
            admin.Run(http =>
            {
                http.Response.StatusCode = StatusCodes.Status404NotFound;
                return http.Response.WriteAsync("The console is not built. The API answers under /api/v1.");
            });
            return;
        }

        UseFiles(admin, new PhysicalFileProvider(folder));
        admin.Run(http =>
        {
            http.Response.StatusCode = StatusCodes.Status405MethodNotAllowed;
            http.Response.Headers.Allow = "GET, HEAD";
            return Task.CompletedTask;
        });
    }

    private static void UseFiles(IApplicationBuilder admin, PhysicalFileProvider files)
    {
        admin.Use(next => http =>
        {
            // Every other address is a page of the console's own routes.
            http.Request.Path = files.GetFileInfo(http.Request.Path.Value ?? "/").Exists ? http.Request.Path : "/index.html";
            return next(http);
        });
        admin.UseMiddleware<Precompressed>(files);
        admin.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = files,
            ContentTypeProvider = new Precompressed.Types(),
            OnPrepareResponse = context =>
            {
                context.Context.Response.Headers.CacheControl =
                    context.Context.Request.Path.StartsWithSegments("/assets") ? "public, max-age=31536000, immutable" : "no-cache";
                Precompressed.Mark(context);
            },
        });
    }

    /// <summary>Believes forwarding headers of the named proxies, and of nobody else.</summary>
    public static ForwardedHeadersOptions Forwarding(ServiceOptions options)
    {
        var forwarded = new ForwardedHeadersOptions { ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto };
        forwarded.KnownIPNetworks.Clear();
        forwarded.KnownProxies.Clear();
        foreach (var proxy in options.TrustedProxies)
        {
            forwarded.KnownProxies.Add(IPAddress.Parse(proxy));
        }

        return forwarded;
    }

    /// <summary>Keeps an event on one line, whatever it tells: nothing a peer sends can begin a line of its own.</summary>
    private sealed class OneLine : Serilog.Core.ILogEventEnricher
    {
        public void Enrich(LogEvent logEvent, Serilog.Core.ILogEventPropertyFactory propertyFactory)
        {
            if (logEvent.Exception is { } fault)
            {
                logEvent.AddPropertyIfAbsent(propertyFactory.CreateProperty("Fault", " | " + fault.ToString().ReplaceLineEndings(" ⏎ ")));
            }

            foreach (var (name, value) in logEvent.Properties.ToList())
            {
                if (value is ScalarValue { Value: string text } && text.AsSpan().ContainsAnyInRange('\0', '\x1f'))
                {
                    logEvent.AddOrUpdateProperty(propertyFactory.CreateProperty(name, new string([.. text.Select(c => char.IsControl(c) ? ' ' : c)])));
                }
            }
        }
    }
}
