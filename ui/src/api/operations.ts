// Made from docs/openapi.json by scripts/operations.mjs: make types makes it anew.
import { operation, reading, writing } from "./operation";

/** Give a send-out up that nothing is being done for. */
export const abandonSubmission = operation("abandon-submission", "post", "/submissions/{id}/abandon", "writes", ["sendouts","listings"]);
export const useAbandonSubmission = writing(abandonSubmission);
/** Accept every certain match of a site that waits to be. */
export const acceptCertainMatches = operation("accept-certain-matches", "post", "/sites/{id}/matches/accept-certain", "writes", ["matches","listings","products","runs"]);
export const useAcceptCertainMatches = writing(acceptCertainMatches);
/** Add categories, one a line. */
export const addCategories = operation("add-categories", "post", "/sites/{id}/categories", "writes", ["sites"]);
export const useAddCategories = writing(addCategories);
/** Add numbers of the seller's own, one a line. */
export const addOwnNumbers = operation("add-own-numbers", "post", "/own-numbers", "writes", ["pool"]);
export const useAddOwnNumbers = writing(addOwnNumbers);
/** Take the supplier's words and pictures for what they changed since a person said otherwise. */
export const adoptSupplierContent = operation("adopt-supplier-content", "post", "/preparations/adopt", "writes", ["prepare","listings"]);
export const useAdoptSupplierContent = writing(adoptSupplierContent);
/** Move the demo's clock on. */
export const advanceDemo = operation("advance-demo", "post", "/demo/advance", "writes", ["clock"]);
export const useAdvanceDemo = writing(advanceDemo);
/** Give a new entry a number of the seller's own. */
export const assignMatchNumber = operation("assign-match-number", "put", "/matches/{id}/number", "writes", ["matches","pool"]);
export const useAssignMatchNumber = writing(assignMatchNumber);
/** What a price rule would have done in the last days, beside what really happened; nothing is changed. */
export const backtestRule = operation("backtest-rule", "post", "/sites/{id}/rules/backtest", "asks", ["rules"]);
export const useBacktestRule = reading(backtestRule);
/** Call lines off; their places are told. */
export const cancelOrderLines = operation("cancel-order-lines", "post", "/order-lines/cancel", "writes", ["orders","counts","listings","runs"]);
export const useCancelOrderLines = writing(cancelOrderLines);
/** Fetch one product's page; it waits to be taken. */
export const capturePage = operation("capture-page", "post", "/pages", "writes", ["feeds","sources"]);
export const useCapturePage = writing(capturePage);
/** Change one's own password; one's other log-ins end. */
export const changePassword = operation("change-password", "put", "/me/password", "writes", ["people"]);
export const useChangePassword = writing(changePassword);
/** Whom it would touch; nothing is kept. */
export const checkDefaults = operation("check-defaults", "post", "/sites/{id}/defaults/check", "asks", ["listings"]);
export const useCheckDefaults = reading(checkDefaults);
/** What a template would make of a listing's description. */
export const checkDescription = operation("check-description", "post", "/preparations/{id}/description/check", "asks", ["listings"]);
export const useCheckDescription = reading(checkDescription);
/** Read a feed that waits as if it were taken, and keep nothing of it. */
export const checkFeed = operation("check-feed", "post", "/feeds/{id}/check", "asks", ["feeds"]);
export const useCheckFeed = reading(checkFeed);
/** What a listing would be with other words; nothing is kept. */
export const checkPreparation = operation("check-preparation", "post", "/preparations/{id}/check", "asks", ["listings"]);
export const useCheckPreparation = reading(checkPreparation);
/** What listings would be with the same words in all; nothing is kept. */
export const checkPreparationOverrides = operation("check-preparation-overrides", "post", "/preparations/overrides/check", "asks", ["listings"]);
export const useCheckPreparationOverrides = reading(checkPreparationOverrides);
/** What rows of a sheet would be; nothing is kept. */
export const checkPreparationSheet = operation("check-preparation-sheet", "post", "/preparations/sheet/check", "asks", ["prepare"]);
export const useCheckPreparationSheet = reading(checkPreparationSheet);
/** What prices fixed by hand would be; nothing is kept. */
export const checkRepricing = operation("check-repricing", "post", "/listings/reprice/check", "asks", ["listings"]);
export const useCheckRepricing = reading(checkRepricing);
/** Whom selling terms would touch; nothing is kept. */
export const checkSellingTerms = operation("check-selling-terms", "post", "/sites/{id}/selling-terms/check", "asks", ["listings"]);
export const useCheckSellingTerms = reading(checkSellingTerms);
/** Close a month that is over, once, after those before it. */
export const closeBook = operation("close-book", "post", "/books/{month}/close", "writes", ["orders"]);
export const useCloseBook = writing(closeBook);
/** What a listing says there beside what was sent, field by field. */
export const compareListing = operation("compare-listing", "get", "/listings/{id}/comparison", "reads", ["differences"]);
export const useCompareListing = reading(compareListing);
/** What comes by itself next, and what happened since a moment. */
export const compareToday = operation("compare-today", "get", "/today/comparison", "reads", ["today"]);
export const useCompareToday = reading(compareToday);
/** Note that a task was done by hand, or that the place didn't take it. */
export const completeTask = operation("complete-task", "post", "/tasks/complete", "writes", ["sendouts","listings","runs","counts"]);
export const useCompleteTask = writing(completeTask);
/** Have codes asked for at the log-in, given one that is right. */
export const confirmSecondFactor = operation("confirm-second-factor", "put", "/me/second-factor", "writes", ["people"]);
export const useConfirmSecondFactor = writing(confirmSecondFactor);
/** Connect a marketplace by the address of its gateway. */
export const connectMarketplace = operation("connect-marketplace", "post", "/marketplaces", "writes", ["places","sites","matches","listings","runs"]);
export const useConnectMarketplace = writing(connectMarketplace);
/** How many go through a sieve. */
export const countCandidates = operation("count-candidates", "get", "/sites/{id}/candidates/count", "reads", ["weigh"]);
export const useCountCandidates = reading(countCandidates);
/** Keep a sieve under a name, in place of the one of that name. */
export const createFilter = operation("create-filter", "post", "/filters", "writes", ["sieves"]);
export const useCreateFilter = writing(createFilter);
/** Keep an order that is typed in. */
export const createOrder = operation("create-order", "post", "/orders", "writes", ["orders","counts","listings"]);
export const useCreateOrder = writing(createOrder);
/** Make listings of our own of some products. */
export const createOwnListings = operation("create-own-listings", "post", "/sites/{id}/listings", "writes", ["prepare","listings","plan","products","runs"]);
export const useCreateOwnListings = writing(createOwnListings);
/** Let somebody work here. */
export const createPerson = operation("create-person", "post", "/people", "writes", ["people","clock"]);
export const useCreatePerson = writing(createPerson);
/** Make a place without a gateway. */
export const createPlace = operation("create-place", "post", "/places", "writes", ["places","sites","matches","listings","runs"]);
export const useCreatePlace = writing(createPlace);
/** Keep a new light file. */
export const createPriceStockFile = operation("create-price-stock-file", "post", "/price-stock-files", "writes", ["sendouts"]);
export const useCreatePriceStockFile = writing(createPriceStockFile);
/** Make a product from nothing, and list it. */
export const createProduct = operation("create-product", "post", "/products", "writes", ["finds","prepare","listings","products","sources","counts"]);
export const useCreateProduct = writing(createProduct);
/** Buy lines: a purchase for each supplier. */
export const createPurchases = operation("create-purchases", "post", "/purchases", "writes", ["orders","counts","listings"]);
export const useCreatePurchases = writing(createPurchases);
/** Make a role. */
export const createRole = operation("create-role", "post", "/roles", "writes", ["people"]);
export const useCreateRole = writing(createRole);
/** A new secret for one-time codes, RFC 6238: nothing asks for them yet. */
export const createSecondFactor = operation("create-second-factor", "post", "/me/second-factor", "writes", ["people"]);
export const useCreateSecondFactor = writing(createSecondFactor);
/** Make a source, and its supplier where there is none of that name. */
export const createSource = operation("create-source", "post", "/sources", "writes", ["feeds","sources","runs"]);
export const useCreateSource = writing(createSource);
/** Take a pasted list of product numbers with costs, to be weighed: nothing is looked up or listed by itself. */
export const createSourcesFromList = operation("create-sources-from-list", "post", "/sources/lists", "writes", ["sources","runs"]);
export const useCreateSourcesFromList = writing(createSourcesFromList);
/** Send listings that are ready. */
export const createSubmission = operation("create-submission", "post", "/submissions", "writes", ["listings","sendouts","runs"]);
export const useCreateSubmission = writing(createSubmission);
/** Keep a blank for a category; what it asks for is what the category demands from now on. */
export const createTemplate = operation("create-template", "post", "/sites/{id}/templates", "writes", ["prepare","listings","places","counts"]);
export const useCreateTemplate = writing(createTemplate);
/** Make a token for scripts: the answer is the only time it is shown. */
export const createToken = operation("create-token", "post", "/me/tokens", "writes", ["people"]);
export const useCreateToken = writing(createToken);
/** Watch a number. */
export const createWatch = operation("create-watch", "post", "/watches", "writes", ["watches"]);
export const useCreateWatch = writing(createWatch);
/** Keep a web address that things are looked up at. */
export const createWebLookUp = operation("create-web-look-up", "post", "/web-look-ups", "writes", ["sieves","weigh"]);
export const useCreateWebLookUp = writing(createWebLookUp);
/** Keep listings as they are there, or send ours. */
export const decideDifferences = operation("decide-differences", "post", "/differences/decide", "writes", ["differences","plan","listings"]);
export const useDecideDifferences = writing(decideDifferences);
/** Choose an entry, ask for a new one, or put it off. */
export const decideMatch = operation("decide-match", "post", "/matches/{id}/decide", "writes", ["matches","products","listings","pool"]);
export const useDecideMatch = writing(decideMatch);
/** Decide several together, after a look at the list of them. */
export const decideMatches = operation("decide-matches", "post", "/matches/decide", "writes", ["matches","products","listings","pool","weigh","finds"]);
export const useDecideMatches = writing(decideMatches);
/** Drop a schedule that a person made. */
export const deleteFees = operation("delete-fees", "post", "/sites/{id}/fees/delete", "writes", ["sites","listings"]);
export const useDeleteFees = writing(deleteFees);
/** Forget a named sieve. */
export const deleteFilter = operation("delete-filter", "delete", "/filters/{id}", "writes", ["sieves"]);
export const useDeleteFilter = writing(deleteFilter);
/** Forget which of a site's categories a supplier's is. */
export const deleteLearntCategory = operation("delete-learnt-category", "delete", "/sites/{id}/learnt-categories", "writes", ["prepare","listings"]);
export const useDeleteLearntCategory = writing(deleteLearntCategory);
/** Put the number back into the pool. */
export const deleteMatchNumber = operation("delete-match-number", "delete", "/matches/{id}/number", "writes", ["matches","pool"]);
export const useDeleteMatchNumber = writing(deleteMatchNumber);
/** Take a person's choice of pictures back: the supplier's stand there again. */
export const deletePictureChoice = operation("delete-picture-choice", "delete", "/preparations/{id}/pictures", "writes", ["prepare","listings"]);
export const useDeletePictureChoice = writing(deletePictureChoice);
/** Forget a light file. */
export const deletePriceStockFile = operation("delete-price-stock-file", "delete", "/price-stock-files/{id}", "writes", ["sendouts"]);
export const useDeletePriceStockFile = writing(deletePriceStockFile);
/** Delete a role that nobody has. */
export const deleteRole = operation("delete-role", "delete", "/roles/{id}", "writes", ["people"]);
export const useDeleteRole = writing(deleteRole);
/** Drop a rule. */
export const deleteRule = operation("delete-rule", "delete", "/rules/{id}", "writes", ["rules","listings","plan"]);
export const useDeleteRule = writing(deleteRule);
/** Forget selling terms that no category has. */
export const deleteSellingTerms = operation("delete-selling-terms", "delete", "/sites/{id}/selling-terms", "writes", ["prepare","listings"]);
export const useDeleteSellingTerms = writing(deleteSellingTerms);
/** End one of one's own log-ins. */
export const deleteSession = operation("delete-session", "delete", "/me/sessions/{id}", "writes", ["people"]);
export const useDeleteSession = writing(deleteSession);
/** End one of one's own tokens. */
export const deleteToken = operation("delete-token", "delete", "/me/tokens/{id}", "writes", ["people"]);
export const useDeleteToken = writing(deleteToken);
/** Take one of our words back. */
export const deleteValueMapping = operation("delete-value-mapping", "delete", "/sites/{id}/value-mappings", "writes", ["prepare","listings"]);
export const useDeleteValueMapping = writing(deleteValueMapping);
/** Drop a watch. */
export const deleteWatch = operation("delete-watch", "delete", "/watches/{id}", "writes", ["watches"]);
export const useDeleteWatch = writing(deleteWatch);
/** Forget a web address that things are looked up at. */
export const deleteWebLookUp = operation("delete-web-look-up", "delete", "/web-look-ups/{id}", "writes", ["sieves","weigh"]);
export const useDeleteWebLookUp = writing(deleteWebLookUp);
/** Make a light file and give it to where it goes now. */
export const deliverPriceStockFile = operation("deliver-price-stock-file", "post", "/price-stock-files/{id}/deliver", "writes", ["sendouts","runs"]);
export const useDeliverPriceStockFile = writing(deliverPriceStockFile);
/** Drop a feed that waits. */
export const discardFeed = operation("discard-feed", "post", "/feeds/{id}/discard", "writes", ["feeds","sources","runs"]);
export const useDiscardFeed = writing(discardFeed);
/** Say that a supplier's product is another thing, or take that back. */
export const dismissSecondSupply = operation("dismiss-second-supply", "put", "/second-supplies/{id}/dismissed", "writes", ["matches","counts"]);
export const useDismissSecondSupply = writing(dismissSecondSupply);
/** A light file, made now. */
export const downloadPriceStockFile = operation("download-price-stock-file", "get", "/price-stock-files/{id}/content", "reads", ["sendouts"]);
/** A filled sheet as its place takes it; refused where a line of it may not be offered so any more. */
export const downloadSheet = operation("download-sheet", "get", "/sheets/{id}/content", "reads", ["sendouts"]);
/** The pictures of a task, numbered in their order. */
export const downloadTaskPictures = operation("download-task-pictures", "get", "/tasks/{key}/pictures.zip", "reads", ["sendouts"]);
/** End every log-in and token of somebody. */
export const endSessions = operation("end-sessions", "post", "/people/{id}/end-sessions", "writes", ["people"]);
export const useEndSessions = writing(endSessions);
/** Who did what, as a file. */
export const exportAuditEntries = operation("export-audit-entries", "get", "/audit-entries/export.{format}", "reads", ["people"]);
/** A month for the accountant as a file. */
export const exportBook = operation("export-book", "get", "/books/{month}/export.{format}", "reads", ["orders"]);
/** The candidates that go through a sieve, as a file. */
export const exportCandidates = operation("export-candidates", "get", "/sites/{id}/candidates/export.{format}", "reads", ["weigh"]);
/** A site's schedules as a file, docs/fees.md. */
export const exportFees = operation("export-fees", "get", "/sites/{id}/fees/export", "reads", ["sites"]);
export const useExportFees = reading(exportFees);
/** What a supplier is given of a purchase, with whom it goes to. */
export const exportPurchase = operation("export-purchase", "get", "/purchases/{id}/export.{format}", "reads", ["orders"]);
/** What a site refused, to be mended in a spreadsheet. */
export const exportRefusals = operation("export-refusals", "get", "/sites/{id}/refusals/export.{format}", "reads", ["listings"]);
/** What a feed set aside, as CSV with the reasons. */
export const exportRejectedRows = operation("export-rejected-rows", "get", "/feeds/{id}/rejected-rows/export.csv", "reads", ["feeds"]);
/** The outcomes of a send-out as a file. */
export const exportSubmissionOutcomes = operation("export-submission-outcomes", "get", "/submissions/{id}/outcomes/export.{format}", "reads", ["sendouts"]);
/** Our words for a site's values, as CSV. */
export const exportValueMappings = operation("export-value-mappings", "get", "/sites/{id}/value-mappings/export.csv", "reads", ["prepare"]);
/** Fetch rates from an address, now and every day from now on. */
export const fetchExchangeRates = operation("fetch-exchange-rates", "post", "/exchange-rates/fetch", "writes", ["sites","listings","plan"]);
export const useFetchExchangeRates = writing(fetchExchangeRates);
/** Bring in a picture from its address. */
export const fetchPicture = operation("fetch-picture", "post", "/pictures/fetch", "writes", ["pictures"]);
export const useFetchPicture = writing(fetchPicture);
/** Fetch a source's address. */
export const fetchSource = operation("fetch-source", "post", "/sources/{id}/fetch", "writes", ["runs"]);
export const useFetchSource = writing(fetchSource);
/** A month for the accountant, as it is or as it was closed. */
export const getBook = operation("get-book", "get", "/books/{month}", "reads", ["orders"]);
export const useGetBook = reading(getBook);
/** The token of bookmarks that hand pages in; empty where none was made yet. */
export const getBookmarklet = operation("get-bookmarklet", "get", "/bookmarklet", "reads", ["sources"]);
export const useGetBookmarklet = reading(getBookmarklet);
/** A candidate with what others ask and who else supplies it. */
export const getCandidate = operation("get-candidate", "get", "/candidates/{id}", "reads", ["weigh"]);
export const useGetCandidate = reading(getCandidate);
/** What waits at each stop. */
export const getCounts = operation("get-counts", "get", "/counts", "reads", ["counts"]);
export const useGetCounts = reading(getCounts);
/** What holds for a site's own listings unless one says otherwise. */
export const getDefaults = operation("get-defaults", "get", "/sites/{id}/defaults", "reads", ["prepare"]);
export const useGetDefaults = reading(getDefaults);
/** The clock, and whether this is the demo. */
export const getDemo = operation("get-demo", "get", "/demo", "reads", ["clock"]);
export const useGetDemo = reading(getDemo);
/** What was earned in a time, by day, month, site, supplier, category or product. */
export const getEarnings = operation("get-earnings", "get", "/earnings", "reads", ["orders"]);
export const useGetEarnings = reading(getEarnings);
/** One feed and what was recognised of it. */
export const getFeed = operation("get-feed", "get", "/feeds/{id}", "reads", ["feeds"]);
export const useGetFeed = reading(getFeed);
/** A site's fee schedules: those that held, hold and will. */
export const getFees = operation("get-fees", "get", "/sites/{id}/fees", "reads", ["sites"]);
export const useGetFees = reading(getFees);
/** One listing. */
export const getListing = operation("get-listing", "get", "/listings/{id}", "reads", ["listings"]);
export const useGetListing = reading(getListing);
/** A listing's price, opened into its lines. */
export const getListingPriceLines = operation("get-listing-price-lines", "get", "/listings/{id}/price-lines", "reads", ["listings"]);
export const useGetListingPriceLines = reading(getListingPriceLines);
/** Cost, price, floor, rivals and stock of a listing through time. */
export const getListingTimeline = operation("get-listing-timeline", "get", "/listings/{id}/timeline", "reads", ["listings"]);
export const useGetListingTimeline = reading(getListingTimeline);
/** How mail is sent. */
export const getMailSettings = operation("get-mail-settings", "get", "/mail-settings", "reads", ["mail"]);
export const useGetMailSettings = reading(getMailSettings);
/** Who asks, and by what they are known. */
export const getMe = operation("get-me", "get", "/me", "reads", ["people"]);
export const useGetMe = reading(getMe);
/** An order, with what was expected of each line beside what really was. */
export const getOrder = operation("get-order", "get", "/orders/{id}", "reads", ["orders"]);
export const useGetOrder = reading(getOrder);
/** How many numbers of the seller's own there are. */
export const getOwnNumbers = operation("get-own-numbers", "get", "/own-numbers", "reads", ["pool"]);
export const useGetOwnNumbers = reading(getOwnNumbers);
/** A picture that was kept. */
export const getPicture = operation("get-picture", "get", "/pictures/{digest}", "reads", ["pictures"]);
/** The plan that waits on a site. */
export const getPlan = operation("get-plan", "get", "/plans", "reads", ["plan"]);
export const useGetPlan = reading(getPlan);
/** How a site follows suppliers and rivals, with what its price rules set otherwise. */
export const getPolicy = operation("get-policy", "get", "/sites/{id}/policy", "reads", ["following"]);
export const useGetPolicy = reading(getPolicy);
/** A listing of our own with what its category asks for. */
export const getPreparation = operation("get-preparation", "get", "/preparations/{id}", "reads", ["prepare"]);
export const useGetPreparation = reading(getPreparation);
/** Listings of our own in one category, as a grid. */
export const getPreparationSheet = operation("get-preparation-sheet", "get", "/preparations/sheet", "reads", ["sheet"]);
export const useGetPreparationSheet = reading(getPreparationSheet);
/** What the columns of a light file are, as a Table Schema. */
export const getPriceStockFileSchema = operation("get-price-stock-file-schema", "get", "/price-stock-files/{id}/schema", "reads", ["sendouts"]);
/** One product: what the supplier says, what we say, what the market says. */
export const getProduct = operation("get-product", "get", "/products/{id}", "reads", ["products"]);
export const useGetProduct = reading(getProduct);
/** What is kept, and for how long. */
export const getRetention = operation("get-retention", "get", "/retention", "reads", ["keeping"]);
export const useGetRetention = reading(getRetention);
/** How the own shop looks, and where it is. */
export const getShop = operation("get-shop", "get", "/shop", "reads", ["places"]);
export const useGetShop = reading(getShop);
/** How SKUs are made, tried on real rows. */
export const getSkuPattern = operation("get-sku-pattern", "get", "/sku-pattern", "reads", ["skus"]);
export const useGetSkuPattern = reading(getSkuPattern);
/** What is set of a source. */
export const getSourceSettings = operation("get-source-settings", "get", "/sources/{id}/settings", "reads", ["sources"]);
export const useGetSourceSettings = reading(getSourceSettings);
/** One send-out. */
export const getSubmission = operation("get-submission", "get", "/submissions/{id}", "reads", ["sendouts"]);
export const useGetSubmission = reading(getSubmission);
/** What taking back a send-out would do, line by line. */
export const getSubmissionReversal = operation("get-submission-reversal", "get", "/submissions/{id}/reversal", "reads", ["sendouts"]);
export const useGetSubmissionReversal = reading(getSubmissionReversal);
/** One supplier product, with its history. */
export const getSupplierProduct = operation("get-supplier-product", "get", "/supplier-products/{id}", "reads", ["finds"]);
export const useGetSupplierProduct = reading(getSupplierProduct);
/** How a category's blank is filled, as easymargin fill takes it. */
export const getTemplateLayout = operation("get-template-layout", "get", "/sites/{id}/templates/layout", "reads", ["prepare"]);
export const useGetTemplateLayout = reading(getTemplateLayout);
/** What needs a person, and what was done last. */
export const getToday = operation("get-today", "get", "/today", "reads", ["today"]);
export const useGetToday = reading(getToday);
/** Hold a send-out back that was not handed over yet, or let it go on. */
export const holdSubmission = operation("hold-submission", "put", "/submissions/{id}/held", "writes", ["sendouts","runs"]);
export const useHoldSubmission = writing(holdSubmission);
/** What a file would mend of listings that were refused: a place's report mended, or ours. Nothing of it is kept. */
export const inspectMends = operation("inspect-mends", "post", "/sites/{id}/mends/inspect", "writes", ["prepare"], "application/octet-stream");
export const useInspectMends = writing(inspectMends);
/** What is recognised of an order report: the body is its file. Nothing of it is taken. */
export const inspectOrderReport = operation("inspect-order-report", "post", "/sites/{id}/order-reports/inspect", "writes", ["orders"], "application/octet-stream");
export const useInspectOrderReport = writing(inspectOrderReport);
/** What is recognised of a place's report of filled sheets: the body is its file. Nothing of it is read in. */
export const inspectSheetReport = operation("inspect-sheet-report", "post", "/sites/{id}/sheet-reports/inspect", "writes", ["sendouts"], "application/octet-stream");
export const useInspectSheetReport = writing(inspectSheetReport);
/** What is recognised of a place's statement of fees: the body is its file. Nothing of it is taken. */
export const inspectStatement = operation("inspect-statement", "post", "/sites/{id}/statements/inspect", "writes", ["orders"], "application/octet-stream");
export const useInspectStatement = writing(inspectStatement);
/** What is recognised of a place's own sheet: the body is its file. Nothing of it is kept. */
export const inspectTemplate = operation("inspect-template", "post", "/sites/{id}/templates/inspect", "writes", ["prepare"], "application/octet-stream");
export const useInspectTemplate = writing(inspectTemplate);
/** Tie an offer that is on sale to a supplier product. */
export const linkOffer = operation("link-offer", "post", "/unlinked-offers/link", "writes", ["listings","products","matches"]);
export const useLinkOffer = writing(linkOffer);
/** Who did something, by name. */
export const listAuditActors = operation("list-audit-actors", "get", "/audit-entries/actors", "reads", ["people"]);
export const useListAuditActors = reading(listAuditActors);
/** Who did what, the last first. */
export const listAuditEntries = operation("list-audit-entries", "get", "/audit-entries", "reads", ["people"]);
export const useListAuditEntries = reading(listAuditEntries);
/** What supplier products would make on a site, sifted and sorted. */
export const listCandidates = operation("list-candidates", "get", "/sites/{id}/candidates", "reads", ["weigh"]);
export const useListCandidates = reading(listCandidates);
/** A site's categories. */
export const listCategories = operation("list-categories", "get", "/sites/{id}/categories", "reads", ["sites"]);
export const useListCategories = reading(listCategories);
/** Listings on sale that say something else there than was sent. */
export const listContentDifferences = operation("list-content-differences", "get", "/content-differences", "reads", ["differences"]);
export const useListContentDifferences = reading(listContentDifferences);
/** What the demo's mailbox got, the newest first. */
export const listDemoLetters = operation("list-demo-letters", "get", "/demo/letters", "reads", ["mail"]);
export const useListDemoLetters = reading(listDemoLetters);
/** Listings that were read back and aren't as they were confirmed. */
export const listDifferences = operation("list-differences", "get", "/differences", "reads", ["differences"]);
export const useListDifferences = reading(listDifferences);
/** What rules in their first week would have sent by themselves, newest first. */
export const listDryRuns = operation("list-dry-runs", "get", "/dry-runs", "reads", ["shadows"]);
export const useListDryRuns = reading(listDryRuns);
/** Exchange rates. */
export const listExchangeRates = operation("list-exchange-rates", "get", "/exchange-rates", "reads", ["sites"]);
export const useListExchangeRates = reading(listExchangeRates);
/** What a feed changed. */
export const listFeedChanges = operation("list-feed-changes", "get", "/feeds/{id}/changes", "reads", ["feeds"]);
export const useListFeedChanges = reading(listFeedChanges);
/** What a column can be read as. */
export const listFeedFields = operation("list-feed-fields", "get", "/feed-fields", "reads", ["fields"]);
export const useListFeedFields = reading(listFeedFields);
/** Named sieves, and the columns that one may look at. */
export const listFilters = operation("list-filters", "get", "/filters", "reads", ["sieves"]);
export const useListFilters = reading(listFilters);
/** Products that could be listed on a site of our own. */
export const listListableProducts = operation("list-listable-products", "get", "/sites/{id}/listable-products", "reads", ["prepare"]);
export const useListListableProducts = reading(listListableProducts);
/** What was let go for a listing and what became of it, the newest first. */
export const listListingAttempts = operation("list-listing-attempts", "get", "/listings/{id}/attempts", "reads", ["sendouts"]);
export const useListListingAttempts = reading(listListingAttempts);
/** What the marketplace confirmed of a listing, oldest first. */
export const listListingHistory = operation("list-listing-history", "get", "/listings/{id}/history", "reads", ["listings"]);
export const useListListingHistory = reading(listListingHistory);
/** The variants of a listing's product on its site; none where it is no variant. */
export const listListingVariants = operation("list-listing-variants", "get", "/listings/{id}/variants", "reads", ["listings"]);
export const useListListingVariants = reading(listListingVariants);
/** Listings. */
export const listListings = operation("list-listings", "get", "/listings", "reads", ["listings"]);
export const useListListings = reading(listListings);
/** Lines that lost money, the worst first, each with why. */
export const listLosses = operation("list-losses", "get", "/earnings/losses", "reads", ["orders"]);
export const useListLosses = reading(listLosses);
/** The newest mails, with what became of them. */
export const listMails = operation("list-mails", "get", "/mails", "reads", ["mail"]);
export const useListMails = reading(listMails);
/** Entries that a supplier product may be, weighed. */
export const listMatchEntries = operation("list-match-entries", "get", "/matches/{id}/entries", "reads", ["matches"]);
export const useListMatchEntries = reading(listMatchEntries);
/** Supplier products by what became of their match. */
export const listMatches = operation("list-matches", "get", "/matches", "reads", ["matches"]);
export const useListMatches = reading(listMatches);
/** What listings of our own lack, the commonest first. */
export const listMissingFields = operation("list-missing-fields", "get", "/preparations/missing-fields", "reads", ["prepare"]);
export const useListMissingFields = reading(listMissingFields);
/** Lines of orders: those to buy, to send, with a problem, or all. */
export const listOrderLines = operation("list-order-lines", "get", "/order-lines", "reads", ["orders"]);
export const useListOrderLines = reading(listOrderLines);
/** The variants of a listing's product on its site, by what sets them apart. */
export const listOwnVariants = operation("list-own-variants", "get", "/preparations/{id}/variants", "reads", ["prepare"]);
export const useListOwnVariants = reading(listOwnVariants);
/** Who works or worked here. */
export const listPeople = operation("list-people", "get", "/people", "reads", ["people"]);
export const useListPeople = reading(listPeople);
/** What the pictures of a listing can be chosen from, and what its site wants of them. */
export const listPictureChoices = operation("list-picture-choices", "get", "/preparations/{id}/pictures", "reads", ["prepare"]);
export const useListPictureChoices = reading(listPictureChoices);
/** Where we sell: what each can do, and what is missing before one can sell there. */
export const listPlaces = operation("list-places", "get", "/places", "reads", ["places"]);
export const useListPlaces = reading(listPlaces);
/** Lines of a plan that wait, in the order they go out; of all plans where the id is 0. */
export const listPlanLines = operation("list-plan-lines", "get", "/plans/{id}/lines", "reads", ["plan"]);
export const useListPlanLines = reading(listPlanLines);
/** Listings of our own by what they lack; those first of which one thing done brings most. */
export const listPreparations = operation("list-preparations", "get", "/preparations", "reads", ["prepare"]);
export const useListPreparations = reading(listPreparations);
/** Light files: price and stock of what is on sale, made by hand or on a schedule. */
export const listPriceStockFiles = operation("list-price-stock-files", "get", "/price-stock-files", "reads", ["sendouts"]);
export const useListPriceStockFiles = reading(listPriceStockFiles);
/** What was bought, the newest first. */
export const listPurchases = operation("list-purchases", "get", "/purchases", "reads", ["orders"]);
export const useListPurchases = reading(listPurchases);
/** What places refused, alike ones together, with what mended such before. */
export const listRefusals = operation("list-refusals", "get", "/refusals", "reads", ["listings"]);
export const useListRefusals = reading(listRefusals);
/** Rows a feed set aside, with each problem. */
export const listRejectedRows = operation("list-rejected-rows", "get", "/feeds/{id}/rejected-rows", "reads", ["feeds"]);
export const useListRejectedRows = reading(listRejectedRows);
/** What a site asks for, category by category. */
export const listRequirements = operation("list-requirements", "get", "/sites/{id}/requirements", "reads", ["prepare"]);
export const useListRequirements = reading(listRequirements);
/** How what others ask moved where we list, newest first. */
export const listRivalMoves = operation("list-rival-moves", "get", "/rival-moves", "reads", ["listings"]);
export const useListRivalMoves = reading(listRivalMoves);
/** The roles, with what each may. */
export const listRoles = operation("list-roles", "get", "/roles", "reads", ["people"]);
export const useListRoles = reading(listRoles);
/** A site's price rules in the order they are tried. */
export const listRules = operation("list-rules", "get", "/sites/{id}/rules", "reads", ["rules"]);
export const useListRules = reading(listRules);
/** Runs that are set aside, those under way, then those that wait, then the newest that are over. */
export const listRuns = operation("list-runs", "get", "/runs", "reads", ["runs"]);
export const useListRuns = reading(listRuns);
/** What suppliers have that is certainly sold already from another one, what earns most first. */
export const listSecondSupplies = operation("list-second-supplies", "get", "/second-supplies", "reads", ["matches"]);
export const useListSecondSupplies = reading(listSecondSupplies);
/** What one seller offers on a site, where the place tells, and who supplies it. */
export const listSellerOffers = operation("list-seller-offers", "get", "/sites/{id}/sellers/offers", "reads", ["weigh"]);
export const useListSellerOffers = reading(listSellerOffers);
/** Filled sheets that wait: to be uploaded at their place, or for its report. */
export const listSheets = operation("list-sheets", "get", "/sheets", "reads", ["sendouts"]);
export const useListSheets = reading(listSheets);
/** Those that wait and differ in the same way. */
export const listSimilarMatches = operation("list-similar-matches", "get", "/matches/{id}/similar", "reads", ["matches"]);
export const useListSimilarMatches = reading(listSimilarMatches);
/** Where we sell. */
export const listSites = operation("list-sites", "get", "/sites", "reads", ["sites"]);
export const useListSites = reading(listSites);
/** Sources with their newest feeds. */
export const listSources = operation("list-sources", "get", "/sources", "reads", ["sources"]);
export const useListSources = reading(listSources);
/** Lines of a send-out. */
export const listSubmissionLines = operation("list-submission-lines", "get", "/submissions/{id}/lines", "reads", ["sendouts"]);
export const useListSubmissionLines = reading(listSubmissionLines);
/** What was handed over of a line, byte for byte, each time it was tried. */
export const listSubmissionMessages = operation("list-submission-messages", "get", "/submission-lines/{id}/messages", "reads", ["sendouts"]);
export const useListSubmissionMessages = reading(listSubmissionMessages);
/** The filled sheets of a send-out. */
export const listSubmissionSheets = operation("list-submission-sheets", "get", "/submissions/{id}/sheets", "reads", ["sendouts"]);
export const useListSubmissionSheets = reading(listSubmissionSheets);
/** Send-outs, newest first. */
export const listSubmissions = operation("list-submissions", "get", "/submissions", "reads", ["sendouts"]);
export const useListSubmissions = reading(listSubmissions);
/** All that was handed over of a listing, newest first. */
export const listSubmittedOfListing = operation("list-submitted-of-listing", "get", "/listings/{id}/submitted", "reads", ["sendouts"]);
export const useListSubmittedOfListing = reading(listSubmittedOfListing);
/** What suppliers changed of what we list, newest first. */
export const listSupplierMoves = operation("list-supplier-moves", "get", "/supplier-moves", "reads", ["feeds"]);
export const useListSupplierMoves = reading(listSupplierMoves);
/** List supplier products on sites, by the defaults of each. */
export const listSupplierProductsForSale = operation("list-supplier-products-for-sale", "post", "/supplier-products/list", "writes", ["finds","runs","matches","listings","prepare"]);
export const useListSupplierProductsForSale = writing(listSupplierProductsForSale);
/** What is to be done by hand at places that have neither a gateway nor a sheet; the most urgent first. */
export const listTasks = operation("list-tasks", "get", "/tasks", "reads", ["sendouts"]);
export const useListTasks = reading(listTasks);
/** A place's own sheets, and how they are filled. */
export const listTemplates = operation("list-templates", "get", "/sites/{id}/templates", "reads", ["prepare"]);
export const useListTemplates = reading(listTemplates);
/** Offers on sale in our name that are tied to nothing here. */
export const listUnlinkedOffers = operation("list-unlinked-offers", "get", "/unlinked-offers", "reads", ["listings"]);
export const useListUnlinkedOffers = reading(listUnlinkedOffers);
/** Listings that are on sale and were not sold since a day. */
export const listUnsoldListings = operation("list-unsold-listings", "get", "/earnings/unsold-listings", "reads", ["orders"]);
export const useListUnsoldListings = reading(listUnsoldListings);
/** Our words for a site's values, learnt from what people chose. */
export const listValueMappings = operation("list-value-mappings", "get", "/sites/{id}/value-mappings", "reads", ["prepare"]);
export const useListValueMappings = reading(listValueMappings);
/** What set watches off, newest first. */
export const listWatchHits = operation("list-watch-hits", "get", "/watch-hits", "reads", ["watches"]);
export const useListWatchHits = reading(listWatchHits);
/** Watches, the ready-made first, with how they stand. */
export const listWatches = operation("list-watches", "get", "/watches", "reads", ["watches"]);
export const useListWatches = reading(listWatches);
/** Look entries up by a number, the place's own, an address of a page, or words. */
export const lookUpEntries = operation("look-up-entries", "get", "/sites/{id}/entries", "reads", ["look-up"]);
export const useLookUpEntries = reading(lookUpEntries);
/** Mail a purchase to its supplier, once. */
export const mailPurchase = operation("mail-purchase", "post", "/purchases/{id}/mail", "writes", ["orders","runs"]);
export const useMailPurchase = writing(mailPurchase);
/** Lines are on their way; their places are told. */
export const markOrderLinesSent = operation("mark-order-lines-sent", "post", "/order-lines/mark-sent", "writes", ["orders","counts","runs"]);
export const useMarkOrderLinesSent = writing(markOrderLinesSent);
/** Note that a place took all of a filled sheet, where it gives no report. */
export const markSheetAccepted = operation("mark-sheet-accepted", "post", "/sheets/{id}/mark-accepted", "writes", ["sendouts","listings","runs","counts"]);
export const useMarkSheetAccepted = writing(markSheetAccepted);
/** Note that a filled sheet was downloaded and not uploaded anywhere. */
export const markSheetNotUploaded = operation("mark-sheet-not-uploaded", "post", "/sheets/{id}/mark-not-uploaded", "writes", ["sendouts"]);
export const useMarkSheetNotUploaded = writing(markSheetNotUploaded);
/** Note that a filled sheet was uploaded at its place. */
export const markSheetUploaded = operation("mark-sheet-uploaded", "post", "/sheets/{id}/mark-uploaded", "writes", ["sendouts","counts"]);
export const useMarkSheetUploaded = writing(markSheetUploaded);
/** What set watches off was seen, up to a hit. */
export const markWatchHitsSeen = operation("mark-watch-hits-seen", "post", "/watch-hits/mark-seen", "writes", ["watches"]);
export const useMarkWatchHitsSeen = writing(markWatchHitsSeen);
/** Have what was looked up to be weighed alone matched, by Match's rules. */
export const matchCandidates = operation("match-candidates", "post", "/sites/{id}/candidates/match", "writes", ["weigh","finds","matches","products","listings"]);
export const useMatchCandidates = writing(matchCandidates);
/** Say the same of all that a place refused with some words, and remember it. */
export const mendRefusals = operation("mend-refusals", "post", "/refusals/mend", "writes", ["prepare","listings","counts"]);
export const useMendRefusals = writing(mendRefusals);
/** Take one row that was set aside, with its cells mended. */
export const mendRejectedRow = operation("mend-rejected-row", "post", "/rejected-rows/{id}/mend", "writes", ["feeds","sources","runs"]);
export const useMendRejectedRow = writing(mendRejectedRow);
/** Move a rule to another place in the order. */
export const moveRule = operation("move-rule", "post", "/rules/{id}/move", "writes", ["rules","listings"]);
export const useMoveRule = writing(moveRule);
/** Keep the same words of many listings. */
export const overridePreparations = operation("override-preparations", "post", "/preparations/overrides", "writes", ["prepare","listings"]);
export const useOverridePreparations = writing(overridePreparations);
/** The price a listing would have by a rule of its own; nothing is changed. */
export const previewListingRule = operation("preview-listing-rule", "post", "/listings/{id}/rule/preview", "asks", ["listings"]);
export const usePreviewListingRule = reading(previewListingRule);
/** A picture as a recipe would make it. */
export const previewPicture = operation("preview-picture", "get", "/pictures/{digest}/preview", "reads", ["pictures"]);
/** What keeping a price rule would do; nothing is changed. */
export const previewRule = operation("preview-rule", "post", "/sites/{id}/rules/preview", "asks", ["rules"]);
export const usePreviewRule = reading(previewRule);
/** What setting a site's terms, tax or currency would do to its prices; nothing is changed. */
export const previewSite = operation("preview-site", "post", "/sites/{id}/preview", "asks", ["sites"]);
export const usePreviewSite = reading(previewSite);
/** What is left of a price, for a product of ours or loose figures. */
export const quotePrice = operation("quote-price", "post", "/quotes", "asks", ["listings"]);
export const useQuotePrice = reading(quotePrice);
/** The same product or figures on every site. */
export const quotePriceBySite = operation("quote-price-by-site", "post", "/quotes/by-site", "asks", ["listings"]);
export const useQuotePriceBySite = reading(quotePriceBySite);
/** Read back what is on sale on a site. */
export const readBackListings = operation("read-back-listings", "post", "/sites/{id}/listings/read-back", "writes", ["runs","listings"]);
export const useReadBackListings = writing(readBackListings);
/** Read a site's fees and categories again. */
export const readFees = operation("read-fees", "post", "/sites/{id}/fees/read", "writes", ["sites","listings"]);
export const useReadFees = writing(readFees);
/** Read what others ask on the candidates' entries, and weigh them anew. */
export const readMarket = operation("read-market", "post", "/sites/{id}/candidates/read-market", "writes", ["runs"]);
export const useReadMarket = writing(readMarket);
/** Read what others ask on some candidates' entries at once. */
export const readMarketOfCandidates = operation("read-market-of-candidates", "post", "/sites/{id}/candidates/read-market-now", "writes", ["weigh","finds","matches","products","listings"]);
export const useReadMarketOfCandidates = writing(readMarketOfCandidates);
/** Ask a site for what was sold now. */
export const readOrders = operation("read-orders", "post", "/sites/{id}/orders/read", "writes", ["runs","orders"]);
export const useReadOrders = writing(readOrders);
/** Read what a site asks for again. */
export const readRequirements = operation("read-requirements", "post", "/sites/{id}/requirements/read", "writes", ["runs","prepare","listings"]);
export const useReadRequirements = writing(readRequirements);
/** Read what others ask on the entries we list on. */
export const readRivals = operation("read-rivals", "post", "/sites/{id}/rivals/read", "writes", ["listings","runs"]);
export const useReadRivals = writing(readRivals);
/** A purchase has arrived. */
export const receivePurchase = operation("receive-purchase", "post", "/purchases/{id}/receive", "writes", ["orders"]);
export const useReceivePurchase = writing(receivePurchase);
/** Give money back for a line, or of its order's delivery: never more than is left of what was paid; its place is told. */
export const refundOrderLine = operation("refund-order-line", "post", "/order-lines/{id}/refund", "writes", ["orders","counts","runs"]);
export const useRefundOrderLine = writing(refundOrderLine);
/** Drop candidates, with the reason. */
export const rejectCandidates = operation("reject-candidates", "post", "/candidates/reject", "writes", ["weigh","finds","matches","products","listings"]);
export const useRejectCandidates = writing(rejectCandidates);
/** Let a kept supplier product go. */
export const removeFromShortlist = operation("remove-from-shortlist", "delete", "/supplier-products/{id}/shortlisting", "writes", ["finds"]);
export const useRemoveFromShortlist = writing(removeFromShortlist);
/** Have no codes asked for any more, given the password. */
export const removeSecondFactor = operation("remove-second-factor", "post", "/me/second-factor/remove", "writes", ["people"]);
export const useRemoveSecondFactor = writing(removeSecondFactor);
/** Another token: bookmarks with the one before hand nothing in any more. */
export const renewBookmarklet = operation("renew-bookmarklet", "post", "/bookmarklet/renew", "writes", ["sources"]);
export const useRenewBookmarklet = writing(renewBookmarklet);
/** Fix prices by hand, change a set of them, or release them. */
export const repriceListings = operation("reprice-listings", "post", "/listings/reprice", "writes", ["listings","plan","rules"]);
export const useRepriceListings = writing(repriceListings);
/** Note that a place was asked to put a brand on its register, or what became of that. */
export const requestBrand = operation("request-brand", "post", "/sites/{id}/brands", "writes", ["prepare","listings"]);
export const useRequestBrand = writing(requestBrand);
/** Bring dropped candidates back. */
export const restoreCandidates = operation("restore-candidates", "post", "/candidates/restore", "writes", ["weigh","finds","matches","products","listings"]);
export const useRestoreCandidates = writing(restoreCandidates);
/** Do the same to all pictures of many listings; a run. */
export const retouchPictures = operation("retouch-pictures", "post", "/preparations/pictures", "writes", ["runs","prepare"]);
export const useRetouchPictures = writing(retouchPictures);
/** Look undecided supplier products up again. */
export const retryMatches = operation("retry-matches", "post", "/sites/{id}/matches/retry", "writes", ["runs","matches"]);
export const useRetryMatches = writing(retryMatches);
/** Have a run tried again that is set aside because the program ended twice while it went on. */
export const retryRun = operation("retry-run", "post", "/runs/{id}/retry", "writes", ["runs","today"]);
export const useRetryRun = writing(retryRun);
/** Try a send-out again that nothing is being done for; nothing is sent twice. */
export const retrySubmission = operation("retry-submission", "post", "/submissions/{id}/retry", "writes", ["sendouts","runs"]);
export const useRetrySubmission = writing(retrySubmission);
/** Take back what a send-out changed: a send-out of its own, by the same guards. */
export const revertSubmission = operation("revert-submission", "post", "/submissions/{id}/revert", "writes", ["sendouts","plan","listings","runs"]);
export const useRevertSubmission = writing(revertSubmission);
/** Keep a price rule, new or known. */
export const saveRule = operation("save-rule", "post", "/sites/{id}/rules", "writes", ["rules","listings","plan"]);
export const useSaveRule = writing(saveRule);
/** Search the register that a listing's brand must be on. */
export const searchBrands = operation("search-brands", "get", "/preparations/{id}/brands", "reads", ["prepare"]);
export const useSearchBrands = reading(searchBrands);
/** Categories that a listing could go into, with what a sale would cost there. */
export const searchCategories = operation("search-categories", "get", "/preparations/{id}/categories", "reads", ["prepare"]);
export const useSearchCategories = reading(searchCategories);
/** Search all suppliers' products by words, ref or number; without words, those that were kept. */
export const searchSupplierProducts = operation("search-supplier-products", "get", "/supplier-products", "reads", ["finds"]);
export const useSearchSupplierProducts = reading(searchSupplierProducts);
/** What a line really cost; empty leaves it as it is. */
export const setActualCosts = operation("set-actual-costs", "put", "/order-lines/{id}/actual-costs", "writes", ["orders"]);
export const useSetActualCosts = writing(setActualCosts);
/** Note that leave to sell in a category was asked for or given. */
export const setApproval = operation("set-approval", "put", "/sites/{id}/approvals", "writes", ["prepare","listings","matches","runs"]);
export const useSetApproval = writing(setApproval);
/** Whether certain matches are accepted by themselves. */
export const setAutoAccept = operation("set-auto-accept", "put", "/sites/{id}/auto-accept", "writes", ["sites"]);
export const useSetAutoAccept = writing(setAutoAccept);
/** Set an exchange rate. */
export const setExchangeRate = operation("set-exchange-rate", "put", "/exchange-rates", "writes", ["sites","listings","plan"]);
export const useSetExchangeRate = writing(setExchangeRate);
/** Set the former price shown crossed out. */
export const setFormerPrice = operation("set-former-price", "put", "/listings/{id}/former-price", "writes", ["listings"]);
export const useSetFormerPrice = writing(setFormerPrice);
/** Pull the stop that holds everything at once, or lift it. */
export const setHalt = operation("set-halt", "put", "/halt", "writes", ["counts","plan","sendouts","runs"]);
export const useSetHalt = writing(setHalt);
/** Say whether we list on a site. */
export const setListedOn = operation("set-listed-on", "put", "/sites/{id}/listed-on", "writes", ["places","sites","matches","listings","runs"]);
export const useSetListedOn = writing(setListedOn);
/** Say whether a product, a variant perhaps, is to be sold on this site. */
export const setListingOnSale = operation("set-listing-on-sale", "put", "/listings/{id}/on-sale", "writes", ["listings","plan"]);
export const useSetListingOnSale = writing(setListingOnSale);
/** Give a listing a rule of its own, or take it away. */
export const setListingRule = operation("set-listing-rule", "put", "/listings/{id}/rule", "writes", ["listings","rules","plan"]);
export const useSetListingRule = writing(setListingRule);
/** Say whether the marketplace's warehouse keeps and sends it. */
export const setListingWarehouse = operation("set-listing-warehouse", "put", "/listings/{id}/warehouse", "writes", ["listings","plan"]);
export const useSetListingWarehouse = writing(setListingWarehouse);
/** Say how many are in the supplier's item and in what the entry sells. */
export const setMatchUnits = operation("set-match-units", "put", "/matches/{id}/units", "writes", ["matches","products","listings","pool"]);
export const useSetMatchUnits = writing(setMatchUnits);
/** Keep a person's choice of pictures; the first leads. */
export const setPictureChoice = operation("set-picture-choice", "put", "/preparations/{id}/pictures", "writes", ["prepare","listings"]);
export const useSetPictureChoice = writing(setPictureChoice);
/** Put listings that aren't on sale into a category. */
export const setPreparationsCategory = operation("set-preparations-category", "post", "/preparations/category", "writes", ["prepare","listings","runs"]);
export const useSetPreparationsCategory = writing(setPreparationsCategory);
/** Say what the columns of a place's file are read as. */
export const setSiteFileColumns = operation("set-site-file-columns", "put", "/site-files/{id}/columns", "writes", ["places"]);
export const useSetSiteFileColumns = writing(setSiteFileColumns);
/** Give a listing that was never handed over a SKU of its own. */
export const setSku = operation("set-sku", "put", "/preparations/{id}/sku", "writes", ["prepare","listings","products"]);
export const useSetSku = writing(setSku);
/** Set how SKUs are made; those that were given stay. */
export const setSkuPattern = operation("set-sku-pattern", "put", "/sku-pattern", "writes", ["skus"]);
export const useSetSkuPattern = writing(setSkuPattern);
/** Set how listings are shown: hidden, from a day, until a day. */
export const setVisibility = operation("set-visibility", "post", "/preparations/visibility", "writes", ["prepare","listings","plan","products"]);
export const useSetVisibility = writing(setVisibility);
/** Keep fields as they are there; all else is ours, and waits among the changed words. */
export const settleContentDifferences = operation("settle-content-differences", "post", "/content-differences/settle", "writes", ["differences","prepare","listings","counts"]);
export const useSettleContentDifferences = writing(settleContentDifferences);
/** Say of lines with a problem that they were seen to. */
export const settleOrderLines = operation("settle-order-lines", "post", "/order-lines/settle", "writes", ["orders","counts"]);
export const useSettleOrderLines = writing(settleOrderLines);
/** Keep candidates as finds. */
export const shortlistCandidates = operation("shortlist-candidates", "post", "/candidates/shortlist", "writes", ["weigh","finds","matches","products","listings"]);
export const useShortlistCandidates = writing(shortlistCandidates);
/** Keep a supplier product with a note, without listing it. */
export const shortlistSupplierProduct = operation("shortlist-supplier-product", "put", "/supplier-products/{id}/shortlisting", "writes", ["finds"]);
export const useShortlistSupplierProduct = writing(shortlistSupplierProduct);
/** How lines are best bought, and what choices of one's own cost. */
export const splitPurchase = operation("split-purchase", "post", "/purchases/split", "asks", ["orders"]);
export const useSplitPurchase = reading(splitPurchase);
/** Stop a run. */
export const stopRun = operation("stop-run", "post", "/runs/{id}/stop", "writes", ["runs"]);
export const useStopRun = writing(stopRun);
/** Send what listings on sale are to say otherwise than they do there; only what differs goes. */
export const submitContent = operation("submit-content", "post", "/submissions/content", "writes", ["prepare","listings","sendouts","runs","counts"]);
export const useSubmitContent = writing(submitContent);
/** Send lines of a plan. */
export const submitPlan = operation("submit-plan", "post", "/plans/{id}/submit", "writes", ["plan","sendouts","runs"]);
export const useSubmitPlan = writing(submitPlan);
/** Have suppliers' products no longer supply what they were taken for. */
export const takeBackSecondSupplies = operation("take-back-second-supplies", "post", "/second-supplies/take-back", "writes", ["matches","listings","plan","counts","products"]);
export const useTakeBackSecondSupplies = writing(takeBackSecondSupplies);
/** Take a feed that waits. */
export const takeFeed = operation("take-feed", "post", "/feeds/{id}/take", "writes", ["feeds","sources","runs"]);
export const useTakeFeed = writing(takeFeed);
/** Keep what a file mends; nothing is sent by it. */
export const takeMends = operation("take-mends", "post", "/sites/{id}/mends", "writes", ["prepare","listings","counts"]);
export const useTakeMends = writing(takeMends);
/** Take the orders of a report, all of it or nothing. */
export const takeOrderReport = operation("take-order-report", "post", "/sites/{id}/order-reports", "writes", ["orders","counts","listings","runs"]);
export const useTakeOrderReport = writing(takeOrderReport);
/** Take over what a gateway says we have on sale. */
export const takeOverListings = operation("take-over-listings", "post", "/sites/{id}/listings/take-over", "writes", ["places","sites","matches","listings","runs"]);
export const useTakeOverListings = writing(takeOverListings);
/** Have suppliers' products supply what they are; all that are proposed where none is named. */
export const takeSecondSupplies = operation("take-second-supplies", "post", "/second-supplies/take", "writes", ["matches","listings","plan","counts","products"]);
export const useTakeSecondSupplies = writing(takeSecondSupplies);
/** Read in what a place's report says of filled sheets. */
export const takeSheetReport = operation("take-sheet-report", "post", "/sites/{id}/sheet-reports", "writes", ["sendouts","listings","runs","counts"]);
export const useTakeSheetReport = writing(takeSheetReport);
/** Read a place's file. */
export const takeSiteFile = operation("take-site-file", "post", "/site-files/{id}/take", "writes", ["places","sites","matches","listings","runs"]);
export const useTakeSiteFile = writing(takeSiteFile);
/** Take what a statement says was kept of each order, all of it or nothing. */
export const takeStatement = operation("take-statement", "post", "/sites/{id}/statements", "writes", ["orders","counts","listings","runs"]);
export const useTakeStatement = writing(takeStatement);
/** The same of every site we list on. */
export const tryCosts = operation("try-costs", "post", "/what-if", "asks", ["listings"]);
export const useTryCosts = reading(tryCosts);
/** Ask what other costs, fees or rates would do; nothing is changed. */
export const tryCostsOnSite = operation("try-costs-on-site", "post", "/sites/{id}/what-if", "asks", ["listings"]);
export const useTryCostsOnSite = reading(tryCostsOnSite);
/** What other figures would make of a site's plan; nothing is changed. */
export const tryPolicy = operation("try-policy", "post", "/sites/{id}/policy/try", "asks", ["listings"]);
export const useTryPolicy = reading(tryPolicy);
/** Undo a decision; what was listed by it goes off sale by the plan. */
export const undoMatch = operation("undo-match", "post", "/matches/{id}/undo", "writes", ["matches","products","listings","pool"]);
export const useUndoMatch = writing(undoMatch);
/** Take listings of our own off their site; those that were never handed over go, the others are put to nothing by the plan. */
export const unlistPreparations = operation("unlist-preparations", "post", "/preparations/unlist", "writes", ["prepare","listings","plan","products"]);
export const useUnlistPreparations = writing(unlistPreparations);
/** Keep what holds in a category. */
export const updateDefaults = operation("update-defaults", "put", "/sites/{id}/defaults", "writes", ["prepare","listings"]);
export const useUpdateDefaults = writing(updateDefaults);
/** Keep a schedule of one category from one day on, as docs/fees.md writes it. */
export const updateFees = operation("update-fees", "put", "/sites/{id}/fees", "writes", ["sites","listings","plan"], "application/json");
export const useUpdateFees = writing(updateFees);
/** Set how mail is sent. */
export const updateMailSettings = operation("update-mail-settings", "put", "/mail-settings", "writes", ["mail"]);
export const useUpdateMailSettings = writing(updateMailSettings);
/** Change who somebody is here: name, role, password, whether they still work here. */
export const updatePerson = operation("update-person", "put", "/people/{id}", "writes", ["people","clock"]);
export const useUpdatePerson = writing(updatePerson);
/** Set how a site follows suppliers and rivals. */
export const updatePolicy = operation("update-policy", "put", "/sites/{id}/policy", "writes", ["following","sites","rules","plan","listings"]);
export const useUpdatePolicy = writing(updatePolicy);
/** Keep what a person says of a listing. */
export const updatePreparation = operation("update-preparation", "put", "/preparations/{id}", "writes", ["prepare","listings"]);
export const useUpdatePreparation = writing(updatePreparation);
/** Keep what a person says in a sheet. */
export const updatePreparationSheet = operation("update-preparation-sheet", "put", "/preparations/sheet", "writes", ["prepare","listings"]);
export const useUpdatePreparationSheet = writing(updatePreparationSheet);
/** Change a light file. */
export const updatePriceStockFile = operation("update-price-stock-file", "put", "/price-stock-files/{id}", "writes", ["sendouts"]);
export const useUpdatePriceStockFile = writing(updatePriceStockFile);
/** Write down what a category asks for. */
export const updateRequirements = operation("update-requirements", "put", "/sites/{id}/requirements", "writes", ["prepare","listings"]);
export const useUpdateRequirements = writing(updateRequirements);
/** Set how long things are kept; what is older goes at once. */
export const updateRetention = operation("update-retention", "put", "/retention", "writes", ["keeping"]);
export const useUpdateRetention = writing(updateRetention);
/** Change a role: whoever has it may from then on what it says. */
export const updateRole = operation("update-role", "put", "/roles/{id}", "writes", ["people"]);
export const useUpdateRole = writing(updateRole);
/** Set what a price rule follows otherwise than its site. */
export const updateRulePolicy = operation("update-rule-policy", "put", "/rules/{id}/policy", "writes", ["following","sites","rules","plan","listings"]);
export const useUpdateRulePolicy = writing(updateRulePolicy);
/** Keep selling terms under a name. */
export const updateSellingTerms = operation("update-selling-terms", "put", "/sites/{id}/selling-terms", "writes", ["prepare","listings"]);
export const useUpdateSellingTerms = writing(updateSellingTerms);
/** Set how the own shop looks. */
export const updateShop = operation("update-shop", "put", "/shop", "writes", ["places","sites","matches","listings","runs"]);
export const useUpdateShop = writing(updateShop);
/** Set what a place is called, where and in which currency it sells, and the tax in what buyers pay. */
export const updateSite = operation("update-site", "put", "/sites/{id}", "writes", ["sites","places","listings","plan"]);
export const useUpdateSite = writing(updateSite);
/** Set how a source is fetched, read and guarded. */
export const updateSourceSettings = operation("update-source-settings", "put", "/sources/{id}/settings", "writes", ["sources","listings"]);
export const useUpdateSourceSettings = writing(updateSourceSettings);
/** Set what delivery costs the buyer, what sending costs us, and what is put on costs and by of prices. */
export const updateTerms = operation("update-terms", "put", "/sites/{id}/terms", "writes", ["sites","listings","plan"]);
export const useUpdateTerms = writing(updateTerms);
/** Change a watch; of a ready-made one only how it tells. */
export const updateWatch = operation("update-watch", "put", "/watches/{id}", "writes", ["watches"]);
export const useUpdateWatch = writing(updateWatch);
/** Keep the rates of a CSV file: from, to, rate, day. */
export const uploadExchangeRates = operation("upload-exchange-rates", "post", "/exchange-rates/upload", "writes", ["sites","listings","plan"], "text/csv");
export const useUploadExchangeRates = writing(uploadExchangeRates);
/** Bring in a file: the body is the file itself; nothing of it is taken yet. */
export const uploadFeed = operation("upload-feed", "post", "/feeds", "writes", ["feeds","sources","runs"], "application/octet-stream");
export const useUploadFeed = writing(uploadFeed);
/** Keep the schedules of a file, docs/fees.md. */
export const uploadFees = operation("upload-fees", "post", "/sites/{id}/fees/upload", "writes", ["sites","listings","plan"], "application/json");
export const useUploadFees = writing(uploadFees);
/** A product's page as a person's browser has it, handed in by a bookmark; it waits to be taken. */
export const uploadPage = operation("upload-page", "post", "/pages/upload", "writes", ["feeds","sources"], "application/octet-stream");
export const useUploadPage = writing(uploadPage);
/** Bring in a picture: the body is its file. */
export const uploadPicture = operation("upload-picture", "post", "/pictures", "writes", ["pictures"], "application/octet-stream");
export const useUploadPicture = writing(uploadPicture);
/** Keep a picture for the shop's first page: the body is the picture. The answer is what it is called. */
export const uploadShopPicture = operation("upload-shop-picture", "post", "/sites/{id}/shop-picture", "writes", ["places"], "application/octet-stream");
export const useUploadShopPicture = writing(uploadShopPicture);
/** Bring in a file that a place lets sellers download: the body is the file. */
export const uploadSiteFile = operation("upload-site-file", "post", "/sites/{id}/files", "writes", ["places"], "application/octet-stream");
export const useUploadSiteFile = writing(uploadSiteFile);
/** Look candidates up on a site, where they weren't, and weigh them. */
export const weighCandidates = operation("weigh-candidates", "post", "/sites/{id}/candidates/weigh", "writes", ["sources","runs"]);
export const useWeighCandidates = writing(weighCandidates);
